/** What some learners did on some days, by course: for columns of a period. */
import type { Db } from '../db';
import { courseRowInScope } from '../scope';
import { idList, type View } from '../view';

export interface AccessInPeriod {
  learner_id: number;
  course_id: number;
  ms: number;
  events: number;
  /** Days with any event. */
  days: number;
}

/** Totals of days from `fromDay` up to `toDay`, which is not included; a learner and course without any is missing. */
export async function accessInPeriod(
  db: Db,
  { viewer, segment }: View,
  learnerIds: readonly number[],
  { fromDay, toDay }: { fromDay: number; toDay: number },
): Promise<AccessInPeriod[]> {
  return db('learner_day as d')
    .whereIn('d.learner_id', idList(db, learnerIds))
    .where(courseRowInScope(db, viewer, 'd'))
    .where('d.day', '>=', fromDay)
    .where('d.day', '<', toDay)
    .where('d.events', '>', 0)
    .modify((query) => {
      if (segment.courseId !== undefined) query.where('d.course_id', segment.courseId);
    })
    .groupBy('d.learner_id', 'd.course_id')
    .select(
      'd.learner_id',
      'd.course_id',
      db.raw('sum(d.ms) AS ms'),
      db.raw('sum(d.events) AS events'),
      db.raw('count(*) AS days'),
    );
}
