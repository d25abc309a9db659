/** Attendance over time: each learner's marks, and what they come to. */
import { IsIn, IsOptional } from 'class-validator';
import { groupBy } from '@/core/group-by';
import { attendanceOf, type Attendance, type Mark } from '@/core/sessions/attendance';
import { fullName } from '@/core/people/name';
import { sayCount } from '@/core/time/words';
import { marksInTime, type MarkInTime } from '@/data/sessions/attendance';
import { asMark, listMarks } from '@/data/sessions/marks';
import { namesOf, type NameRow } from '@/data/people/learners';
import type { Viewer } from '@/data/scope';
import { seenEnrolments, type Moment } from '@/data/view';
import { AsCount, readInput, type Values } from '../request/input';
import { Filter, type List } from '../request/list';
import { pageAfter } from '../request/list-query';
import { PeriodQuery, periodOf, type Period } from '../request/period';
import { openMoment } from '../request/view';
import type { Runtime } from '../runtime';

const SORTS = ['name', 'rate', 'missed', 'trend', 'counted'] as const;
type Sort = (typeof SORTS)[number];

class AttendanceQuery extends PeriodQuery {
  @Filter({
    tells: 'missed so many sessions in a row, up to now',
    says: (count) => `Missed the last ${sayCount(Number(count), 'session')} or more`,
    control: { as: 'count', label: 'Missed in a row, or more', start: 2 },
  })
  @IsOptional()
  @AsCount('sessions', 999)
  missed?: number;

  @IsOptional()
  @IsIn(SORTS.flatMap((sort) => [sort, `-${sort}`]), {
    message: `is not one of ${SORTS.join(', ')}, with - before it for descending`,
  })
  sort?: string;

  @Filter({ tells: '`all`: those whose enrolment has ended, too' })
  @IsOptional()
  @IsIn(['active', 'all'], { message: 'is not one of active, all' })
  status?: 'active' | 'all';
}

/** One learner with their record. */
export interface AttendanceRow extends NameRow {
  attendance: Attendance;
  /** Their marks in time order. */
  marks: MarkInTime[];
}

const round = (value: number, digits: number) => Math.round(value * 10 ** digits) / 10 ** digits;

const VALUES: Record<Sort, (row: AttendanceRow) => number | null> = {
  name: () => 0,
  rate: ({ attendance }) => attendance.rate,
  missed: ({ attendance }) => attendance.missedInARow,
  trend: ({ attendance }) => attendance.trend,
  counted: ({ attendance }) => attendance.counted,
};

const nameOf = ({ family_name, given_name }: NameRow) => `${family_name} ${given_name}`;

/** People by name, those alike by their number. */
function byName<T extends NameRow>(rows: T[], down: 1 | -1): T[] {
  const collator = new Intl.Collator('en');
  const named = rows.map((row) => ({ row, name: nameOf(row) }));
  return named.sort((a, b) => collator.compare(a.name, b.name) * down || a.row.id - b.row.id).map(({ row }) => row);
}

/** By a figure, with those who have none last; those alike stay as they stand. */
function byFigure(rows: AttendanceRow[], sort: string): AttendanceRow[] {
  const down = sort.startsWith('-') ? -1 : 1;
  const value = VALUES[sort.replace('-', '') as Sort];
  return rows.sort((a, b) => {
    const [x, y] = [value(a), value(b)];
    if (x === null || y === null) return Number(x === null) - Number(y === null);
    return (x - y) * down;
  });
}

/** Everybody in view, by their numbers and names. */
async function peopleIn({ db }: Pick<Runtime, 'db'>, view: Moment, status: 'active' | 'all'): Promise<NameRow[]> {
  const ids: number[] = await seenEnrolments(db, view, status)
    .distinct('enrolment.learner_id')
    .pluck('enrolment.learner_id');
  return namesOf(db, view.viewer, ids);
}

/** Records of some of them; of all when it is not said of whom. */
async function recordsOf(
  { db }: Pick<Runtime, 'db'>,
  view: Moment,
  period: Period,
  people: readonly NameRow[],
  learnerIds?: readonly number[],
): Promise<AttendanceRow[]> {
  const [rows, kinds] = await Promise.all([
    marksInTime(db, view, { ...period, now: view.now, learnerIds }),
    listMarks(db, true),
  ]);
  const marks: Mark[] = kinds.map(asMark);
  const own = groupBy(rows, (row) => row.learner_id);
  return people.map((name) => {
    const of = own.get(name.id) ?? [];
    const codes = of.map(({ mark }) => mark);
    return { ...name, marks: of, attendance: attendanceOf(codes, marks) };
  });
}

/** @throws InvalidInput, NotFound */
export async function attendance(runtime: Runtime, viewer: Viewer, values: Values) {
  const query = readInput(AttendanceQuery, values, runtime.zone);
  const { course, group, organisation, missed, sort = 'name' } = query;
  const view = await openMoment(runtime, viewer, { course, group, organisation });
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
  if (isByName && missed === undefined) {
    // Nobody's record is asked for but those of the page.
    const { rows, next } = paged(named);
    const ids = rows.length < named.length ? rows.map(({ id }) => id) : undefined;
    return { ...base, rows: await recordsOf(runtime, view, period, rows, ids), total: named.length, next };
  }
  const records = await recordsOf(runtime, view, period, named);
  const found = missed === undefined ? records : records.filter((row) => row.attendance.missedInARow >= missed);
  return { ...base, ...paged(isByName ? found : byFigure(found, sort)), total: found.length };
}

/** A learner's line in the grid. */
export interface AttendanceLine {
  id: number;
  learnerId: string;
  name: string;
  rate: number | null;
  credit: number;
  counted: number;
  missed: number;
  trend: number | null;
  /** Their mark by the session's number. */
  marks: Record<number, string>;
}

function attendanceLine(row: AttendanceRow): AttendanceLine {
  const { rate, credit, counted, missedInARow, trend } = row.attendance;
  return {
    id: row.id,
    learnerId: row.learner_id,
    name: fullName(row),
    rate,
    credit,
    counted,
    missed: missedInARow,
    trend,
    marks: Object.fromEntries(row.marks.map(({ session_id, mark }) => [session_id, mark])),
  };
}

const times = (code: string) => (row: AttendanceRow) => row.attendance.byMark[code] ?? 0;

export const ATTENDANCE = {
  name: 'attendance',
  path: '/sessions/attendance',
  query: AttendanceQuery,
  columns: {
    of: {
      title: 'Learner',
      sort: 'name',
      isKey: true,
      figures: { learner_id: (row) => row.learner_id, name: (row) => fullName(row) },
    },
    counted: { title: 'Counted', sort: 'counted', figures: { counted: ({ attendance: { counted } }) => counted } },
    credit: { title: 'Credit', figures: { credit: ({ attendance: { credit } }) => credit } },
    rate: {
      title: 'Rate',
      sort: 'rate',
      figures: { rate: ({ attendance: { rate } }) => (rate === null ? null : round(rate, 5)) },
    },
    marks: {
      title: 'Marks',
      figures: {
        present: times('present'),
        late: times('late'),
        partial: times('partial'),
        absent: times('absent'),
        excused: times('excused'),
      },
    },
    missed: {
      title: 'Missed in a row',
      sort: 'missed',
      figures: { missed_in_a_row: ({ attendance: { missedInARow } }) => missedInARow },
    },
    trend: {
      title: 'Trend',
      sort: 'trend',
      figures: { trend: ({ attendance: { trend } }) => (trend === null ? null : round(trend, 5)) },
    },
  },
  line: attendanceLine,
  read: attendance,
} satisfies List<AttendanceRow>;
