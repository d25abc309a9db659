/** Courses: which of them needs somebody. */
import { IsOptional } from 'class-validator';
import { dateOfDay, dayOf, startOfDay } from '@/core/time/zone';
import {
  courseCounts,
  lastSessions,
  unopenedByCourse,
  toGradeByCourse,
  type CourseCounts,
  type LastSession,
} from '@/data/courses/course-counts';
import { attendanceRates } from '@/data/sessions/attendance-rates';
import { countUpTo, storedProgress } from '@/data/completion/stored-progress';
import type { Viewer } from '@/data/scope';
import { readInput, type Values } from '../request/input';
import type { At, List } from '../request/list';
import { pageInOrder, SortedBy } from '../request/list-query';
import { SegmentQuery } from '../request/segment-query';
import { openDriftView } from '../request/view';
import type { Runtime } from '../runtime';
import { ageDays } from '../work/to-grade-list';

const SORTS = [
  'title',
  'enrolled',
  'active',
  'never',
  'adrift',
  'progress',
  'overdue',
  'to_grade',
  'unopened',
] as const;
type Sort = (typeof SORTS)[number];

class CoursesQuery extends SegmentQuery {
  @IsOptional()
  @SortedBy(SORTS)
  sort?: string;
}

export interface CourseRow extends CourseCounts {
  /** Mean share of required items done, and planned to be done by now, 0–1. */
  progress: number | null;
  planned: number | null;
  /** Pieces overdue, and learners who owe any. */
  overdue: number;
  overdueBy: number;
  toGrade: number;
  oldest: number | null;
  attendance: number | null;
  lastSession: LastSession | null;
  unopened: { count: number; first: string; item_id: string } | null;
}

const mean = (values: readonly number[]) =>
  values.length === 0 ? null : values.reduce((sum, value) => sum + value, 0) / values.length;

const VALUES: Record<Sort, (row: CourseRow) => number | string | null> = {
  title: ({ title }) => title.toLowerCase(),
  enrolled: ({ enrolled }) => enrolled,
  active: ({ active, enrolled }) => active / enrolled,
  never: ({ never }) => never,
  adrift: ({ adrift }) => adrift,
  progress: ({ progress, planned }) => (progress === null ? null : progress - (planned ?? 0)),
  overdue: ({ overdue }) => overdue,
  to_grade: ({ toGrade }) => toGrade,
  unopened: ({ unopened }) => unopened?.count ?? 0,
};

/** @throws InvalidInput, NotFound */
export async function courses(runtime: Runtime, viewer: Viewer, values: Values) {
  const query = readInput(CoursesQuery, values, runtime.zone);
  const { course, group, organisation, caseload, sort = 'title' } = query;
  const { db, zone } = runtime;
  const view = await openDriftView(runtime, viewer, { course, group, organisation, caseload });
  const today = dayOf(view.now, zone);
  const [counts, kept, waits, unopened, sessions, attendance] = await Promise.all([
    courseCounts(db, view, startOfDay(today - 6, zone)),
    storedProgress(db, view),
    toGradeByCourse(db, view),
    unopenedByCourse(db, view),
    lastSessions(db, view),
    attendanceRates(db, view, 'course'),
  ]);
  const sums = new Map<number, { progress: number[]; planned: number[]; overdue: number; overdueBy: number }>();
  for (const { courseId, done, required, plan, openDues } of kept.values()) {
    const sum = sums.get(courseId) ?? { progress: [], planned: [], overdue: 0, overdueBy: 0 };
    sums.set(courseId, sum);
    if (required > 0) sum.progress.push(done / required);
    if (required > 0 && plan.length > 0) sum.planned.push(countUpTo(plan, today) / required);
    const overdue = countUpTo(openDues, view.now - 1);
    sum.overdue += overdue;
    if (overdue > 0) sum.overdueBy += 1;
  }
  const all = counts.map((row): CourseRow => {
    const sum = sums.get(row.id);
    return {
      ...row,
      progress: mean(sum?.progress ?? []),
      // Without a first and a last day there is no plan.
      planned: row.starts_day === null || row.ends_day === null ? null : mean(sum?.planned ?? []),
      overdue: sum?.overdue ?? 0,
      overdueBy: sum?.overdueBy ?? 0,
      toGrade: waits.get(row.id)?.count ?? 0,
      oldest: waits.get(row.id)?.oldest ?? null,
      attendance: attendance.get(row.id) ?? null,
      lastSession: sessions.get(row.id) ?? null,
      unopened: unopened.get(row.id) ?? null,
    };
  });
  const value = VALUES[sort.replace('-', '') as Sort];
  const down = sort.startsWith('-') ? -1 : 1;
  all.sort((a, b) => {
    const [x, y] = [value(a), value(b)];
    if (x === null || y === null) return Number(x === null) - Number(y === null);
    return (x < y ? -1 : x > y ? 1 : 0) * down;
  });
  const { rows, next } = pageInOrder(all, query, ({ id }) => id);
  return { query, view, rows, total: all.length, next, now: view.now, zone };
}

const round = (value: number | null) => (value === null ? null : Math.round(value * 1e5) / 1e5);
const date = (day: number | null) => (day === null ? null : dateOfDay(day));

export const COURSES = {
  name: 'courses',
  path: '/courses',
  query: CoursesQuery,
  columns: {
    course: {
      title: 'Course',
      sort: 'title',
      isKey: true,
      figures: {
        course: ({ code }) => code,
        title: ({ title }) => title,
        starts_on: (row) => date(row.starts_day),
        ends_on: (row) => date(row.ends_day),
      },
    },
    enrolled: { title: 'Enrolled', sort: 'enrolled', figures: { enrolled: ({ enrolled }) => enrolled } },
    active: { title: 'Active this week', sort: 'active', figures: { active_7_days: ({ active }) => active } },
    never: { title: 'Never seen', sort: 'never', figures: { never: ({ never }) => never } },
    bands: {
      title: 'Bands',
      sort: 'adrift',
      figures: {
        bands: ({ on_course, slipping, adrift, enrolled }) => ({
          on_course,
          slipping,
          adrift,
          no_reading: enrolled - on_course - slipping - adrift,
        }),
      },
    },
    attendance: {
      title: 'Attendance',
      figures: { attendance_rate: ({ attendance }) => round(attendance) },
    },
    progress: {
      title: 'Progress',
      sort: 'progress',
      figures: { progress: ({ progress }) => round(progress), planned: ({ planned }) => round(planned) },
    },
    overdue: { title: 'Overdue', sort: 'overdue', figures: { overdue: ({ overdue }) => overdue } },
    toGrade: {
      title: 'To grade',
      sort: 'to_grade',
      figures: {
        to_grade: ({ toGrade }) => toGrade,
        to_grade_days: ({ oldest }, at: At) => (oldest === null ? null : ageDays(oldest, at)),
      },
    },
    unopened: {
      title: 'Opened by nobody',
      sort: 'unopened',
      figures: { opened_by_nobody: ({ unopened }) => unopened?.count ?? 0 },
    },
  },
  read: courses,
} satisfies List<CourseRow>;
