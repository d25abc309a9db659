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

/** In the order asked for; who has no such figure comes last, and those alike go by name. */
function inOrder(rows: AttendanceRow[], sort = 'name'): AttendanceRow[] {
  const down = sort.startsWith('-') ? -1 : 1;
  const value = VALUES[sort.replace('-', '') as Sort];
  const name = ({ family_name, given_name }: NameRow) => `${family_name} ${given_name}`;
  const named = sort.endsWith('name') ? down : 1;
  return rows.sort((a, b) => {
    const [x, y] = [value(a), value(b)];
    if (x !== null && y !== null && x !== y) return (x - y) * down;
    if ((x === null) !== (y === null)) return x === null ? 1 : -1;
    return name(a).localeCompare(name(b), 'en') * named || a.id - b.id;
  });
}

/** Records of everybody in view. */
async function recordsOf(
  { db }: Pick<Runtime, 'db'>,
  view: Moment,
  period: Period,
  status: 'active' | 'all' = 'active',
): Promise<AttendanceRow[]> {
  const ids: number[] = await seenEnrolments(db, view, status)
    .distinct('enrolment.learner_id')
    .pluck('enrolment.learner_id');
  const [names, rows, kinds] = await Promise.all([
    namesOf(db, view.viewer, ids),
    marksInTime(db, view, { ...period, now: view.now }),
    listMarks(db, true),
  ]);
  const marks: Mark[] = kinds.map(asMark);
  const own = groupBy(rows, (row) => row.learner_id);
  return names.map((name) => {
    const of = own.get(name.id) ?? [];
    return {
      ...name,
      marks: of,
      attendance: attendanceOf(
        of.map(({ mark }) => mark),
        marks,
      ),
    };
  });
}

/** @throws InvalidInput, NotFound */
export async function attendance(runtime: Runtime, viewer: Viewer, values: Values) {
  const query = readInput(AttendanceQuery, values, runtime.zone);
  const { course, group, organisation, missed } = query;
  const view = await openMoment(runtime, viewer, { course, group, organisation });
  const period = await periodOf(runtime, view, query);
  const records = await recordsOf(runtime, view, period, query.status);
  const found = missed === undefined ? records : records.filter((row) => row.attendance.missedInARow >= missed);
  const all = inOrder(found, query.sort);
  const places = new Map(all.map((row, index) => [row.id, index]));
  const { rows, next } = pageAfter(
    all,
    query,
    (row) => [places.get(row.id)!, row.id],
    (row, [place, id]) => places.get(row.id)! > (places.get(Number(id)) ?? Number(place) - 1),
  );
  return { query, view, period, rows, total: all.length, next, now: view.now, zone: runtime.zone };
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
