/** Time online of everybody in a course, for its average. */
import type { Db } from '../db';
import { seenEnrolments, type View } from '../view';

/** Ms of everybody in the view's course, by the enrolment; 0 for who was never there. */
export async function courseTimes(db: Db, view: View): Promise<Map<number, number>> {
  const rows: { id: number; ms: number | null }[] = await seenEnrolments(db, view, 'all')
    .leftJoin('learner_course as lc', (on) =>
      on.on('lc.learner_id', 'enrolment.learner_id').andOn('lc.course_id', 'enrolment.course_id'),
    )
    .select('enrolment.id', 'lc.ms');
  return new Map(rows.map(({ id, ms }) => [id, ms ?? 0]));
}
