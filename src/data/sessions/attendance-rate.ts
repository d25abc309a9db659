import { prepared, type RawConnection } from '../db';

/**
 * Attendance rates in a course, 0–1: credit over what counts, of sessions held and ended by an instant, whose roll was
 * taken, while somebody was enrolled. `core/sessions/attendance` has the same for a list of marks.
 */
const RATES = `SELECT e.learner_id, sum(mark.credit) / count(*) FROM live_enrolment e
    JOIN session s ON s.course_id = e.course_id
    JOIN attendance a ON a.session_id = s.id AND a.learner_id = e.learner_id
    JOIN mark ON mark.code = a.mark AND mark.counts = 1
  WHERE e.course_id = @courseId AND s.cancelled = 0 AND s.removed_at IS NULL
    AND s.roll_at IS NOT NULL AND s.ends_at <= @until
    AND e.enrolled_day <= s.day AND (e.ended_day IS NULL OR e.ended_day >= s.day)`;

/** One learner's; null while nothing counts. */
export function attendanceRateOf(
  raw: RawConnection,
  learnerId: number,
  courseId: number,
  until: number,
): number | null {
  const found = prepared(raw, `${RATES} AND e.learner_id = @learnerId GROUP BY 1`)
    .raw()
    .get({ learnerId, courseId, until }) as [number, number] | undefined;
  return found?.[1] ?? null;
}

/** Everybody's in a course of whom something counts. */
export function attendanceRatesOf(raw: RawConnection, courseId: number, until: number): Map<number, number> {
  return new Map(prepared(raw, `${RATES} GROUP BY 1`).raw().all({ courseId, until }) as [number, number][]);
}
