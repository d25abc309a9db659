/** Work owed: each learner's pieces with a due date, and where they stand. */
import { IsIn, IsOptional, MaxLength } from 'class-validator';
import { fullName } from '@/core/people/name';
import { OWED_STATES, OWED_WORDS, type OwedState } from '@/core/work/due';
import { cameTooLateFor } from '@/core/drift/work';
import { sayDay } from '@/core/time/words';
import { dayOf } from '@/core/time/zone';
import { enrolledInView } from '@/data/completion/enrolled';
import { findLearner } from '@/data/people/learners';
import { coursesOfItem } from '@/data/courses/courses';
import type { Viewer } from '@/data/scope';
import type { Moment } from '@/data/view';
import { ENROLLED_COLUMN, WorkQuery } from '../completion/work-query';
import { isoOrNull } from '../request/figures';
import { AsInstant, NotFound, readInput, type Values } from '../request/input';
import { Filter, type List } from '../request/list';
import { pageInOrder, SortedBy } from '../request/list-query';
import { requireOrder } from '../request/period';
import { openMoment } from '../request/view';
import type { Runtime } from '../runtime';
import { OWED, OWED_SORTS, owedRows, pieceKey, piecesOf, rowsOfPieces, type OwedRow } from './work-due-rows';

class OwedQuery extends WorkQuery {
  @Filter({
    tells: 'an item, by its id',
    says: (item, _params, names) => `Item ${names.item ?? item}`,
    control: { as: 'choice', label: 'Item', choices: 'items' },
  })
  @IsOptional()
  @MaxLength(200, { message: 'is too long' })
  item?: string;

  @Filter({ tells: 'a learner, by their id', says: (learner, _params, names) => names.learner ?? learner })
  @IsOptional()
  @MaxLength(200, { message: 'is too long' })
  learner?: string;

  @Filter({
    tells: `where it stands: ${OWED_STATES.join(', ')}; or \`owed\`, all that is past its date and not handed in`,
    says: (state) => (state === OWED ? 'Owed now' : `Work ${OWED_WORDS[state as OwedState] ?? state}`),
    control: {
      as: 'choice',
      label: 'State',
      choices: [
        { value: OWED, label: 'owed now' },
        ...OWED_STATES.map((value) => ({ value, label: OWED_WORDS[value] })),
      ],
    },
  })
  @IsOptional()
  @IsIn([OWED, ...OWED_STATES], { message: `is not one of ${[OWED, ...OWED_STATES].join(', ')}` })
  state?: OwedState | typeof OWED;

  @Filter({
    tells: 'due from a time on, or from a date’s beginning',
    says: (from) => `Due from ${from.slice(0, 10)}`,
  })
  @IsOptional()
  @AsInstant()
  from?: number;
  @Filter({ tells: 'due before a time, or before a date', says: (to) => `Due before ${to.slice(0, 10)}` })
  @IsOptional()
  @AsInstant()
  to?: number;

  @IsOptional()
  @SortedBy(OWED_SORTS)
  sort?: string;
}

/** @throws InvalidInput, NotFound */
export async function owed(runtime: Runtime, viewer: Viewer, values: Values) {
  const query = readInput(OwedQuery, values, runtime.zone);
  const { course, group, organisation, sort = 'due', status = 'active', from, to } = query;
  if (from !== undefined && to !== undefined) requireOrder(from, to);
  const view = await openMoment(runtime, viewer, { course, group, organisation }, query.as_of);
  const learner = query.learner === undefined ? undefined : await findLearner(runtime.db, viewer, query.learner);
  if (learner === null) throw new NotFound('No such learner');
  const today = dayOf(view.now, runtime.zone);
  const courses = query.item === undefined ? null : new Set(await coursesOfItem(runtime.db, query.item));
  const people = (await enrolledInView(runtime.db, view, status, learner === undefined ? undefined : [learner])).filter(
    ({ enrolled_day, course_id }) => enrolled_day <= today && (courses === null || courses.has(course_id)),
  );
  const pieces = await piecesOf(runtime.db, view, people, { ...query, sort, status });
  const { rows, next } = pageInOrder(pieces, query, pieceKey);
  return {
    query,
    view,
    rows: await rowsOfPieces(runtime.db, view, rows, query.state),
    total: pieces.length,
    next,
    now: view.now,
    zone: runtime.zone,
  };
}

/** Each learner's overdue list in words, for a message: "Quiz 3 (due Mon 9 Nov) and Sheet 2 (due Thu 12 Nov)". */
export async function overdueLists(
  runtime: Pick<Runtime, 'db' | 'zone'>,
  view: Moment,
  learnerIds: readonly number[],
): Promise<Map<number, string>> {
  const enrolled = await enrolledInView(runtime.db, view, 'active', learnerIds);
  const rows = (await owedRows(runtime.db, view, enrolled, { state: OWED })).sort((a, b) => a.due_at - b.due_at);
  const today = dayOf(view.now, runtime.zone);
  const lists = new Map<number, string>();
  const named = new Map<number, string[]>();
  for (const { enrolled: one, item, due_at } of rows) {
    const own = named.get(one.id) ?? [];
    own.push(`– ${item} (${one.course}), due ${sayDay(dayOf(due_at, runtime.zone), today)}`);
    named.set(one.id, own);
  }
  for (const [id, lines] of named) lists.set(id, lines.join('\n'));
  return lists;
}

export interface OwedLine {
  id: number;
  enrolmentId: number;
  learnerId: string;
  name: string;
  course: string;
  group: string | null;
  itemNumber: number;
  itemId: string;
  item: string;
  dueAt: number;
  extendedFrom: number | null;
  state: OwedState;
  isOwed: boolean;
  daysLate: number;
  submittedAt: number | null;
  /** "due before they came", for a piece that is owed and not held against them; null for any other. */
  early: string | null;
}

/** What is said of a piece that drift does not hold against whoever came late. */
function sayEarly(dueDay: number, cameOn: number): string | null {
  if (!cameTooLateFor(dueDay, cameOn)) return null;
  return dueDay < cameOn ? 'due before they came' : 'due in their first week';
}

export const OWED_LIST = {
  name: 'owed',
  path: '/courses/owed',
  query: OwedQuery,
  columns: {
    of: ENROLLED_COLUMN,
    item: {
      title: 'Item',
      sort: 'item',
      figures: { item_id: (row) => row.item_id, item: (row) => row.item },
    },
    due: { title: 'Due', sort: 'due', figures: { due_at: (row) => isoOrNull(row.due_at) } },
    state: { title: 'State', figures: { state: (row) => row.state } },
    late: { title: 'Days late', sort: 'late', figures: { days_late: (row) => row.days_late } },
    early: {
      title: 'Due before they came',
      figures: {
        before_they_came: (row, { zone }) =>
          row.came_on !== null && cameTooLateFor(dayOf(row.due_at, zone), row.came_on),
      },
    },
    submitted: { title: 'Handed in', figures: { submitted_at: (row) => isoOrNull(row.submitted_at) } },
  },
  line: ({ enrolled, ...row }: OwedRow, { zone }): OwedLine => ({
    id: enrolled.id,
    enrolmentId: enrolled.enrolmentId,
    learnerId: enrolled.learner_id,
    name: fullName(enrolled),
    course: enrolled.course,
    group: enrolled.group,
    itemNumber: row.itemId,
    itemId: row.item_id,
    item: row.item,
    dueAt: row.due_at,
    extendedFrom: row.extended_from,
    state: row.state,
    isOwed: row.isOwed,
    daysLate: row.days_late,
    submittedAt: row.submitted_at,
    early: row.isOwed && row.came_on !== null ? sayEarly(dayOf(row.due_at, zone), row.came_on) : null,
  }),
  read: owed,
} satisfies List<OwedRow>;
