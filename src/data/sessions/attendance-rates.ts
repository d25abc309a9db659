/** How much the people in view attend, by what they are of. */
import type { Db } from '../db';
import { seenEnrolments, type View } from '../view';

/** What rates are told apart by: SQL of its number, with `enrolment` and `learner` in the query. */
const BY = { course: 'enrolment.course_id', organisation: 'learner.organisation_id' } as const;

/**
 * Σ credit / counted marks, 0–1, of sessions that are over, whose roll is taken, and that were in somebody's time in the course.
 * What has no mark that counts is not in it.
 */
export async function attendanceRates(
  db: Db,
  view: View,
  by: keyof typeof BY,
  status: 'active' | 'all' = 'active',
): Promise<Map<number, number>> {
  const rows: { id: number; rate: number }[] = await seenEnrolments(db, view, status)
    .modify((query) => {
      if (by === 'organisation') query.join('learner', 'learner.id', 'enrolment.learner_id');
    })
    .join('session as s', 's.course_id', 'enrolment.course_id')
    .join('attendance as a', (on) => on.on('a.session_id', 's.id').andOn('a.learner_id', 'enrolment.learner_id'))
    .join('mark', 'mark.code', 'a.mark')
    .where('mark.counts', 1)
    .whereNotNull(BY[by])
    .whereRaw(
      's.cancelled = 0 AND s.removed_at IS NULL AND s.roll_at IS NOT NULL AND enrolment.enrolled_day <= s.day AND (enrolment.ended_day IS NULL OR enrolment.ended_day >= s.day)',
    )
    .where('s.ends_at', '<=', view.now)
    .groupBy(BY[by])
    .select(`${BY[by]} as id`, db.raw('sum(mark.credit) / count(*) AS rate'));
  return new Map(rows.map(({ id, rate }) => [id, rate]));
}
