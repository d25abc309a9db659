/** What a session's marks and presence make stale: the drift of those concerned, from its day on. */
import { prepared, type RawConnection } from '../db';
import { OF_COURSE, markStale } from '../drift/stale';

/** One learner's, in the session's course. */
export function staleLearner(raw: RawConnection, sessionId: number, learnerId: number): void {
  markStale(
    raw,
    `SELECT e.id, s.day FROM session s JOIN enrolment e ON e.course_id = s.course_id
     WHERE s.id = @sessionId AND e.learner_id = @learnerId`,
    { sessionId, learnerId },
  );
}

/** Everybody's in the courses of some sessions, from each course's first of them on. */
export function staleSessions(raw: RawConnection, sessionIds: Iterable<number>): void {
  const days = prepared(
    raw,
    'SELECT course_id, min(day) FROM session WHERE id IN (SELECT value FROM json_each(?)) GROUP BY course_id',
  )
    .raw()
    .all(JSON.stringify([...sessionIds])) as [number, number][];
  for (const [courseId, fromDay] of days) markStale(raw, OF_COURSE, { courseId, fromDay });
}
