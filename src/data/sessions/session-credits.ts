/** What sessions were worth to each learner, as drift reads it. */
import type { SessionCredits } from '@/core/drift/types';
import { DEFAULT_THRESHOLDS } from '@/core/sessions/suggest';
import { prepared, type RawConnection } from '../db';

interface HeldSession {
  id: number;
  group_id: number | null;
  day: number;
  has_roll: number;
  /** Ms from which somebody was there. */
  there: number;
}

/**
 * Reads the sessions that count for an enrolment, in time order. One with a roll counts by its mark, from its day on. One
 * of which there is only presence counts as attended or missed from the day after, since a roll may be taken until then.
 * One that was not held, or of which nothing is known, counts for nothing.
 */
export function openSessionCredits(raw: RawConnection) {
  const held = prepared(
    raw,
    `SELECT s.id, s.group_id, s.day, s.roll_at IS NOT NULL AS has_roll,
       (s.ends_at - s.starts_at) * ifnull(r.absent_under, @absentUnder) AS there
     FROM session s LEFT JOIN session_rule r ON r.course_id = s.course_id
     WHERE s.course_id = @courseId AND s.cancelled = 0 AND s.removed_at IS NULL
       AND (s.roll_at IS NOT NULL OR EXISTS (SELECT 1 FROM presence_row WHERE session_id = s.id))
     ORDER BY s.starts_at, s.id`,
  );
  const enrolled = prepared(raw, 'SELECT group_id, enrolled_day, ended_day FROM enrolment WHERE id = ?');
  const marks = prepared(
    raw,
    'SELECT a.session_id, mark.credit, mark.counts FROM attendance a JOIN mark ON mark.code = a.mark WHERE a.learner_id = ?',
  ).raw();
  const seen = prepared(raw, 'SELECT session_id, ms FROM presence WHERE learner_id = ?').raw();
  const ofCourse = new Map<number, HeldSession[]>();
  return ({
    enrolmentId,
    learnerId,
    courseId,
  }: {
    enrolmentId: number;
    learnerId: number;
    courseId: number;
  }): SessionCredits => {
    let sessions = ofCourse.get(courseId);
    if (!sessions) {
      sessions = held.all({ courseId, absentUnder: DEFAULT_THRESHOLDS.absentUnder }) as HeldSession[];
      ofCourse.set(courseId, sessions);
    }
    if (sessions.length === 0) return [];
    const own = enrolled.get(enrolmentId) as {
      group_id: number | null;
      enrolled_day: number;
      ended_day: number | null;
    };
    const byMark = new Map(
      (marks.all(learnerId) as [number, number, number][]).map(([session, credit, counts]) => [
        session,
        counts === 1 ? credit : null,
      ]),
    );
    const byPresence = new Map(seen.all(learnerId) as [session: number, ms: number][]);
    return sessions.flatMap(({ id, group_id, day, has_roll, there }): [number, number][] => {
      if (day < own.enrolled_day || (own.ended_day !== null && day >= own.ended_day)) return [];
      const credit = byMark.get(id);
      if (has_roll === 1) return credit === undefined || credit === null ? [] : [[day, credit]];
      if (group_id !== null && group_id !== own.group_id && !byPresence.has(id)) return [];
      return [[day + 1, (byPresence.get(id) ?? 0) >= there && byPresence.has(id) ? 1 : 0]];
    });
  };
}
