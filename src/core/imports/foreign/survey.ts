/** Who and what is in a file of another system: gathered in one reading, before anything of it is taken. */
import { MINUTE } from '../../time/zone';
import { readLength } from './length';
import { unitOfHeading, type ColumnRole } from './roles';
import { isoFromForeign } from './when';
import { isTooLong, openPersonReader, personKey, type PersonCells } from './person-cells';
import type { Plan } from './plan';
import { isSums } from './table';
import { isStaffWord } from './words';

export interface SeenPerson extends PersonCells {
  rows: number;
}

export interface SeenItem {
  title: string;
  points: number | null;
  /** Words for what was done with it; empty where the file tells of none. */
  actions: Set<string>;
  isScored: boolean;
}

/** What a file says of one course. */
export interface SeenCourse {
  people: Map<string, SeenPerson>;
  items: Map<string, SeenItem>;
}

/** Course texts of rows that name none, where nothing else says which. */
const NO_COURSE = '';

/** Reads which course a row is of: its own, else the one that was said for the file. */
export function openCourseReader({
  roles,
  course,
}: Pick<Plan, 'roles' | 'course'>): (cells: readonly string[]) => string {
  const index = roles.indexOf('course');
  return index < 0 ? () => course ?? NO_COURSE : (cells) => (cells[index] ?? '').trim() || (course ?? NO_COURSE);
}

/** Sessions that a register may tell of. */
const MOST_DAYS = 2000;

/** Gathers people, courses and items row by row. */
export class Survey {
  readonly courses = new Map<string, SeenCourse>();
  rows = 0;
  /** Days and times of a register with a row a mark, as the file writes them. */
  readonly days = new Set<string>();
  /** Rows of whoever is there to teach. */
  staffRows = 0;
  /** Of a meeting: its longest stay in ms, and the first and last instant that it names, in ISO 8601; empty for none. */
  readonly meeting = { longest: 0, first: '', last: '' };
  private readonly personOf;
  private readonly courseOf;
  private readonly item: number;
  private readonly action: number;
  private readonly role: number;
  private readonly time: number;

  constructor(private readonly plan: Plan) {
    this.personOf = openPersonReader(plan);
    this.courseOf = openCourseReader(plan);
    this.item = plan.items.length > 0 ? -1 : plan.roles.indexOf('item');
    this.action = plan.roles.indexOf('action');
    this.role = plan.roles.indexOf('role');
    this.time = plan.items.length > 0 ? -1 : plan.roles.indexOf('time');
  }

  add(cells: readonly string[]): void {
    if (isSums(cells)) return;
    this.rows += 1;
    if (this.role >= 0 && isStaffWord(cells[this.role] ?? '')) {
      this.staffRows += 1;
      return;
    }
    const course = this.seenCourse(this.courseOf(cells));
    const person = this.personOf(cells);
    const key = personKey(person);
    const seen = course.people.get(key);
    if (seen) seen.rows += 1;
    else if (!isTooLong(person)) course.people.set(key, { ...person, rows: 1 });
    if (this.plan.kind === 'presence') this.noteStay(cells);
    if (this.plan.kind === 'marks' && this.time >= 0 && this.days.size < MOST_DAYS)
      this.days.add((cells[this.time] ?? '').trim());
    if (this.item < 0) return;
    const title = (cells[this.item] ?? '').trim();
    if (title === '') return;
    const item = course.items.get(title);
    const action = this.action < 0 ? '' : (cells[this.action] ?? '').trim();
    if (item) {
      if (item.actions.size < 20) item.actions.add(action);
    } else
      course.items.set(title, {
        title,
        points: null,
        actions: new Set([action]),
        isScored: this.plan.kind === 'gradebook',
      });
  }

  private noteStay(cells: readonly string[]): void {
    const { roles, heading, dates } = this.plan;
    const cell = (role: ColumnRole) => (cells[roles.indexOf(role)] ?? '').trim();
    const unit = unitOfHeading(heading[roles.indexOf('duration')] ?? '') ?? MINUTE;
    const length = readLength(cell('duration'), unit);
    if (length !== null && length > this.meeting.longest) this.meeting.longest = length;
    for (const role of ['entered', 'left'] as const) {
      const text = cell(role) === '' ? '' : isoFromForeign(cell(role), dates);
      if (text === '') continue;
      if (this.meeting.first === '' || text < this.meeting.first) this.meeting.first = text;
      if (text > this.meeting.last) this.meeting.last = text;
    }
  }

  private seenCourse(text: string): SeenCourse {
    let course = this.courses.get(text);
    if (!course) {
      const isScored = this.plan.kind === 'gradebook';
      // The columns of a register are sessions.
      const own = this.plan.kind === 'marks' ? [] : this.plan.items;
      const items = own.map(
        ({ title, points }) => [title, { title, points, actions: new Set<string>(), isScored }] as const,
      );
      this.courses.set(text, (course = { people: new Map(), items: new Map(items) }));
    }
    return course;
  }
}
