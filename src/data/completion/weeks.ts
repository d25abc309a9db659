/** What a learner's weeks in a course are drawn from. */
import { MINUTE } from '@/core/time/zone';
import { prepared, type RawConnection } from '../db';

/** Minutes of a learner in a course on some days, the first and last included. */
export function minutesOf(
  raw: RawConnection,
  learnerId: number,
  courseId: number,
  first: number,
  last: number,
): number {
  const ms = prepared(
    raw,
    'SELECT ifnull(sum(ms), 0) FROM learner_day WHERE learner_id = ? AND course_id = ? AND day >= ? AND day <= ?',
  )
    .pluck()
    .get(learnerId, courseId, first, last) as number;
  return ms / MINUTE;
}

/** The first day on which anything was logged in a course; null for a course without a log. */
export function firstLogged(raw: RawConnection, courseId: number): number | null {
  return prepared(raw, 'SELECT min(day) FROM course_day WHERE course_id = ?').pluck().get(courseId) as number | null;
}

/** The score of an enrolment's reading on a day; undefined where there is no reading, null where it has no score. */
export function scoreOnDay(raw: RawConnection): (enrolmentId: number, day: number) => number | null | undefined {
  const score = prepared(raw, 'SELECT score FROM drift_reading WHERE enrolment_id = ? AND day = ?').pluck();
  return (enrolmentId, day) => score.get(enrolmentId, day) as number | null | undefined;
}
