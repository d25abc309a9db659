/**
 * What a session's marks and presence make stale: the drift of those concerned, from its day on. What lies after the
 * last readings is read with its day.
 */
import { PROGRESS_OF_COURSE, staleProgress } from '../completion/enrolment-progress';
import { prepared, type RawConnection } from '../db';
import { OF_COURSE, noteStale } from '../drift/stale';

/** SQL of the day of the last readings; null before any, when all of them are still to be made. */
const READ_TO = "(SELECT CAST(value AS INTEGER) FROM setting WHERE name = 'reading_day')";

/** SQL of one learner's enrolment in the course of a session. */
const OF_LEARNER = `SELECT e.id FROM session s JOIN enrolment e ON e.course_id = s.course_id
  WHERE s.id = @sessionId AND e.learner_id = @learnerId`;

/** One learner's, whose mark in a session has changed. */
export function staleMark(raw: RawConnection, sessionId: number, learnerId: number): void {
  staleProgress(raw, OF_LEARNER, { sessionId, learnerId });
  noteStale(
    raw,
    `SELECT e.id, s.day FROM session s JOIN enrolment e ON e.course_id = s.course_id
     WHERE s.id = @sessionId AND e.learner_id = @learnerId AND s.day <= ${READ_TO}`,
    { sessionId, learnerId },
  );
}

/** One learner's, whose presence in a session has changed: it counts where there is no roll, from the day after. */
export function stalePresence(raw: RawConnection, sessionId: number, learnerId: number): void {
  staleProgress(raw, OF_LEARNER, { sessionId, learnerId });
  noteStale(
    raw,
    `SELECT e.id, s.day + 1 FROM session s JOIN enrolment e ON e.course_id = s.course_id
     WHERE s.id = @sessionId AND e.learner_id = @learnerId AND s.roll_at IS NULL AND s.day < ${READ_TO}`,
    { sessionId, learnerId },
  );
}

/** Everybody's in the courses of some sessions, from each course's first of them on: as they stand now. */
export function staleSessions(raw: RawConnection, sessionIds: Iterable<number>): void {
  const days = prepared(
    raw,
    `SELECT course_id, min(day) FROM session WHERE id IN (SELECT value FROM json_each(?)) AND day <= ${READ_TO} GROUP BY course_id`,
  )
    .raw()
    .all(JSON.stringify([...sessionIds])) as [number, number][];
  for (const [courseId, fromDay] of days) {
    staleProgress(raw, PROGRESS_OF_COURSE, { courseId });
    noteStale(raw, OF_COURSE, { courseId, fromDay });
  }
}
