/** Attendance over time: each learner's marks, and what they come to. */
import { sayShare } from '@/core/percent';
import { IsIn, IsOptional } from 'class-validator';
import { attendanceOf, type Attendance, type Mark } from '@/core/sessions/attendance';
import { fullName } from '@/core/people/name';
import { sortByValue } from '@/core/sort-by-value';
import { sayCount } from '@/core/time/words';
import { marksInTime, type MarkInTime } from '@/data/sessions/attendance';
import { asMark, listMarks } from '@/data/sessions/marks';
import { namesOf, type NameRow } from '@/data/people/learners';
import type { Viewer } from '@/data/scope';
import { seenEnrolments, type View } from '@/data/view';
import { AsCount, readInput, type Values } from '../request/input';
import { gridFigures, type GridFigure } from '../request/grid';
import { Filter, sortsOf, valueOf, type At, type Column, type List } from '../request/list';
import { pageAfter, SortedBy } from '../request/list-query';
import { PeriodQuery, periodOf, type Period } from '../request/period';
import { openView } from '../request/view';
import type { Runtime } from '../runtime';

/** One learner with their record. */
export interface AttendanceRow extends NameRow {
  attendance: Attendance;
  /** Their marks in time order. */
  marks: MarkInTime[];
}

type Figured = NameRow & Pick<AttendanceRow, 'attendance'>;

const round = (value: number, digits: number) => Math.round(value * 10 ** digits) / 10 ** digits;

const OWN_COLUMNS = ['present', 'late', 'partial', 'absent', 'excused'];

/** How often each mark of the programme's own was given, by its code. */
const otherMarks = ({ attendance: { byMark } }: AttendanceRow) =>
  Object.fromEntries(Object.entries(byMark).filter(([code]) => !OWN_COLUMNS.includes(code)));

const times = (code: string) => (row: AttendanceRow) => row.attendance.byMark[code] ?? 0;

/** Percentage points, with their sign; nothing where there is no trend. */
function points(value: number | null): string {
  if (value === null) return '';
  const whole = Math.round(100 * value);
  return whole === 0 ? '0' : `${whole > 0 ? '+' : '−'}${Math.abs(whole)}`;
}

const COLUMNS = {
  of: {
    title: 'Learner',
    sort: 'name',
    isKey: true,
    figures: { learner_id: (row) => row.learner_id, name: (row) => fullName(row) },
  },
  counted: {
    title: 'Counted',
    sort: 'counted',
    value: ({ attendance }: Figured) => attendance.counted,
    figures: { counted: ({ attendance: { counted } }) => counted },
  },
  credit: { title: 'Credit', figures: { credit: ({ attendance: { credit } }) => credit } },
  rate: {
    title: 'Rate',
    sort: 'rate',
    value: ({ attendance }: Figured) => attendance.rate,
    figures: { rate: ({ attendance: { rate } }) => (rate === null ? null : round(rate, 5)) },
    grid: {
      width: 56,
      cell: ({ attendance: { rate, credit, counted } }) => ({ text: sayShare(rate), hint: `${credit} of ${counted}` }),
    },
  },
  marks: {
    title: 'Marks',
    figures: {
      present: times('present'),
      late: times('late'),
      partial: times('partial'),
      absent: times('absent'),
      excused: times('excused'),
      other_marks: otherMarks,
    },
  },
  missed: {
    title: 'Missed in a row',
    sort: 'missed',
    value: ({ attendance }: Figured) => attendance.missedInARow,
    figures: { missed_in_a_row: ({ attendance: { missedInARow } }) => missedInARow },
    grid: {
      title: 'In a row',
      width: 76,
      first: '-',
      isWide: true,
      cell: ({ attendance: { missedInARow: count } }) =>
        count > 0 ? { text: `${count} missed`, isBad: count >= 2 } : '',
    },
  },
  trend: {
    title: 'Trend',
    sort: 'trend',
    value: ({ attendance }: Figured) => attendance.trend,
    figures: { trend: ({ attendance: { trend } }) => (trend === null ? null : round(trend, 5)) },
    grid: { width: 54, isWide: true, cell: ({ attendance: { trend } }) => points(trend) },
  },
} satisfies Record<string, Column<AttendanceRow>>;

const SORTS = sortsOf(COLUMNS);

class AttendanceQuery extends PeriodQuery {
  @Filter({
    help: 'missed so many sessions in a row, up to now',
    says: (count) => `Missed the last ${sayCount(Number(count), 'session')} or more`,
    control: { as: 'count', label: 'Missed in a row, or more', start: 2 },
  })
  @IsOptional()
  @AsCount('sessions', 999)
  missed?: number;

  @IsOptional()
  @SortedBy(SORTS)
  sort?: string;

  @Filter({ help: '`all`: those whose enrolment has ended, too' })
  @IsOptional()
  @IsIn(['active', 'all'], { message: 'is not one of active, all' })
  status?: 'active' | 'all';
}

const nameOf = ({ family_name, given_name }: NameRow) => `${family_name} ${given_name}`;

/** People by name, those alike by their number. */
function byName<T extends NameRow>(rows: T[], down: 1 | -1): T[] {
  const collator = new Intl.Collator('en');
  const named = rows.map((row) => ({ row, name: nameOf(row) }));
  return named.sort((a, b) => collator.compare(a.name, b.name) * down || a.row.id - b.row.id).map(({ row }) => row);
}

/** Everybody in view, by their numbers and names. */
async function peopleIn({ db }: Pick<Runtime, 'db'>, view: View, status: 'active' | 'all'): Promise<NameRow[]> {
  const ids: number[] = await seenEnrolments(db, view, status)
    .distinct('enrolment.learner_id')
    .pluck('enrolment.learner_id');
  return namesOf(db, view.viewer, ids);
}

interface Asked {
  view: View;
  period: Period;
}

/** What everybody's marks come to, or those of some, by the learner's number. */
async function figuresOfAll({ db }: Pick<Runtime, 'db'>, { view, period }: Asked): Promise<Map<number, Attendance>> {
  const marks: Mark[] = (await listMarks(db, true)).map(asMark);
  const figures = new Map<number, Attendance>();
  for await (const one of marksInTime(db, view, { ...period, now: view.now })) {
    const codes = one.marks.map(({ mark }) => mark);
    figures.set(one.learnerId, attendanceOf(codes, marks));
  }
  return figures;
}

/** Records of some people, mark by mark. */
async function recordsOf(
  { db }: Pick<Runtime, 'db'>,
  { view, period }: Asked,
  people: readonly NameRow[],
): Promise<AttendanceRow[]> {
  const marks: Mark[] = (await listMarks(db, true)).map(asMark);
  const marksByLearner = new Map<number, MarkInTime[]>();
  const learnerIds = people.map(({ id }) => id);
  for await (const one of marksInTime(db, view, { ...period, now: view.now, learnerIds }))
    marksByLearner.set(one.learnerId, one.marks);
  return people.map((name) => {
    const theirMarks = marksByLearner.get(name.id) ?? [];
    const codes = theirMarks.map(({ mark }) => mark);
    return { ...name, marks: theirMarks, attendance: attendanceOf(codes, marks) };
  });
}

/** @throws InvalidInput, NotFound */
export async function attendance(runtime: Runtime, viewer: Viewer, values: Values) {
  const query = readInput(AttendanceQuery, values, runtime.zone);
  const { course, group, organisation, caseload, missed, sort = 'name' } = query;
  const view = await openView(runtime, viewer, { course, group, organisation, caseload });
  const period = await periodOf(runtime, view, query);
  const named = byName(await peopleIn(runtime, view, query.status ?? 'active'), sort === '-name' ? -1 : 1);
  const isByName = sort.replace('-', '') === 'name';
  const base = { query, view, period, now: view.now, zone: runtime.zone };
  const paged = <T extends NameRow>(all: readonly T[]) => {
    const places = new Map(all.map((row, index) => [row.id, index]));
    return pageAfter(
      all,
      query,
      (row) => [places.get(row.id)!, row.id],
      (row, [place, id]) => places.get(row.id)! > (places.get(Number(id)) ?? Number(place) - 1),
    );
  };
  let all: readonly NameRow[] = named;
  // By name, nobody's record is needed but those of the page.
  if (!isByName || missed !== undefined) {
    const figures = await figuresOfAll(runtime, base);
    const records = named.flatMap((row) => {
      const theirs = figures.get(row.id);
      return theirs && (missed === undefined || theirs.missedInARow >= missed) ? [{ ...row, attendance: theirs }] : [];
    });
    all = isByName ? records : sortByValue(records, valueOf(COLUMNS, sort), sort.startsWith('-') ? -1 : 1);
  }
  const { rows, next } = paged(all);
  return { ...base, rows: await recordsOf(runtime, base, rows), total: all.length, next };
}

/** A learner's line in the grid. */
export interface AttendanceLine {
  id: number;
  learnerId: string;
  name: string;
  figures: (string | GridFigure)[];
  /** Their mark by the session's number. */
  marks: Record<number, string>;
}

function attendanceLine(row: AttendanceRow, at: At): AttendanceLine {
  return {
    id: row.id,
    learnerId: row.learner_id,
    name: fullName(row),
    figures: gridFigures(COLUMNS, row, at),
    marks: Object.fromEntries(row.marks.map(({ session_id, mark }) => [session_id, mark])),
  };
}

export const ATTENDANCE = {
  name: 'attendance',
  path: '/sessions/attendance',
  query: AttendanceQuery,
  columns: COLUMNS,
  spread: { omits: ['other_marks'], of: otherMarks },
  line: attendanceLine,
  read: attendance,
} satisfies List<AttendanceRow>;
