/** How a learner's figures went, week by week: each as it was known at the week's end. */
import { IsNotEmpty, MaxLength } from 'class-validator';
import { progressOfItems, itemStatuses } from '@/core/completion/enrolment-progress';
import { itemGrades, meansOfGrades } from '@/core/grades/course-grades';
import { isWithin, mergeRanges } from '@/core/drift/counted-days';
import { dateOfDay, dayOf, startOfDay, weekday } from '@/core/time/zone';
import { readCourse } from '@/data/completion/course';
import { enrolledInView } from '@/data/completion/enrolled';
import { openFacts } from '@/data/completion/facts';
import { withRaw } from '@/data/db';
import { courseDates } from '@/data/drift/drift';
import { findLearner } from '@/data/people/learners';
import type { Viewer } from '@/data/scope';
import { attendanceRateOf } from '@/data/sessions/attendance-rate';
import type { View } from '@/data/view';
import { NotFound, readInput, type Values } from '../request/input';
import type { List } from '../request/list';
import { ListQuery, pageInOrder } from '../request/list-query';
import { openView } from '../request/view';
import type { Runtime } from '../runtime';
import { firstLogged, minutesOf, scoreOnDay } from '@/data/completion/weeks';

const missing = { message: 'is missing' };
const long = { message: 'is too long' };

class HistoryQuery extends ListQuery {
  @IsNotEmpty(missing) @MaxLength(200, long) learner!: string;
  @IsNotEmpty(missing) @MaxLength(200, long) course!: string;
}

/** A week of somebody in a course; null for what was not known then. */
export interface HistoryPoint {
  /** The week's Monday. */
  monday: number;
  drift: number | null;
  onGradedWork: number | null;
  progress: number | null;
  attendanceRate: number | null;
  minutes: number | null;
}

/** Weeks looked back at most. */
const MOST_WEEKS = 106;

/** A learner's weeks in a course in view, the first first; null when they are not in it. */
export async function historyOf(
  { db, zone }: Pick<Runtime, 'db' | 'zone'>,
  view: View,
  learnerId: number,
  courseId: number,
): Promise<HistoryPoint[] | null> {
  const [enrolled] = await enrolledInView(db, { ...view, segment: { courseId } }, 'all', [learnerId]);
  if (!enrolled) return null;
  return withRaw(db, (raw) => {
    const course = readCourse(raw, courseId);
    const { feedGaps } = courseDates(raw, courseId, zone);
    const gaps = mergeRanges(feedGaps);
    const logged = firstLogged(raw, courseId);
    const reading = scoreOnDay(raw);
    const today = dayOf(view.now, zone);
    const begin = Math.max(enrolled.enrolled_day, course.start ?? enrolled.enrolled_day);
    const end = Math.min(today, enrolled.ended_day === null ? Infinity : enrolled.ended_day - 1);
    const points: HistoryPoint[] = [];
    const firstMonday = Math.max(begin - weekday(begin), end - weekday(end) - 7 * (MOST_WEEKS - 1));
    for (let monday = firstMonday; monday <= end; monday += 7) {
      const first = Math.max(monday, begin);
      const last = Math.min(monday + 6, end);
      const at = Math.min(startOfDay(last + 1, zone) - 1, view.now);
      const facts = openFacts(raw, course, { viewer: view.viewer, asOf: { at, day: last }, now: at })(learnerId);
      const progress = progressOfItems(itemStatuses(course, facts, at));
      const rate = attendanceRateOf(raw, learnerId, courseId, at);
      const isBlind = logged === null || last < logged || allWithin(first, last, gaps);
      points.push({
        monday,
        drift: reading(enrolled.enrolmentId, last) ?? null,
        onGradedWork: meansOfGrades(course, itemGrades(course, facts, at), rate).on_graded_work,
        progress: progress.share,
        attendanceRate: rate,
        minutes: isBlind ? null : minutesOf(raw, learnerId, courseId, first, last),
      });
    }
    return points;
  });
}

function allWithin(first: number, last: number, ranges: ReturnType<typeof mergeRanges>): boolean {
  for (let day = first; day <= last; day += 1) if (!isWithin(day, ranges)) return false;
  return true;
}

/** @throws InvalidInput, NotFound */
async function history(runtime: Runtime, viewer: Viewer, values: Values) {
  const query = readInput(HistoryQuery, values, runtime.zone);
  const view = await openView(runtime, viewer, { course: query.course });
  const learnerId = await findLearner(runtime.db, viewer, query.learner);
  const points = learnerId === null ? null : await historyOf(runtime, view, learnerId, view.segment.courseId!);
  if (points === null) throw new NotFound('No such learner in this course');
  const { rows, next } = pageInOrder(points, query, ({ monday }) => monday);
  return { query, rows, total: points.length, next, now: view.now, zone: runtime.zone };
}

const round = (value: number | null, digits: number) =>
  value === null ? null : Math.round(value * 10 ** digits) / 10 ** digits;

export const HISTORY = {
  name: 'history',
  path: '/learners',
  query: HistoryQuery,
  columns: {
    week: { title: 'Week', isKey: true, figures: { week: ({ monday }) => dateOfDay(monday) } },
    drift: { title: 'Drift', figures: { drift: ({ drift }) => round(drift, 2) } },
    graded: { title: 'On graded work', figures: { on_graded_work: (point) => round(point.onGradedWork, 3) } },
    progress: { title: 'Progress', figures: { progress: ({ progress }) => round(progress, 5) } },
    attendance: { title: 'Attendance', figures: { attendance_rate: (point) => round(point.attendanceRate, 5) } },
    minutes: { title: 'Minutes', figures: { minutes: ({ minutes }) => round(minutes, 4) } },
  },
  read: history,
} satisfies List<HistoryPoint>;
