/** What sessions were worth to each learner, as drift reads it. */
import type { SessionCredits } from '@/core/drift/types';
import { prepared, type RawConnection } from '../db';

/**
 * Reads the sessions that count for an enrolment, in time order: one with a mark from its day on, and what is provisional (a
 * check-in, or what presence suggests) from the day after, since a roll may be taken until then.
 */
export function openSessionCredits(raw: RawConnection) {
  const withSessions = new Set(prepared(raw, 'SELECT DISTINCT course_id FROM session').pluck().all() as number[]);
  const outcomes = prepared(
    raw,
    `SELECT day + is_provisional, credit FROM session_outcome WHERE enrolment_id = ? AND counts = 1
     ORDER BY starts_at, session_id`,
  ).raw();
  return ({ enrolmentId, courseId }: { enrolmentId: number; courseId: number }): SessionCredits =>
    withSessions.has(courseId) ? (outcomes.all(enrolmentId) as [number, number][]) : [];
}
