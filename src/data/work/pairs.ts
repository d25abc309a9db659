/** Learners' items: the cells of a grid. */
import type { Db } from '../db';
import { enrolmentInScope, type Viewer } from '../scope';

/** A learner and an item, by the database's numbers. */
export type Pair = readonly [learnerId: number, itemId: number];

export interface PairInScope {
  learnerId: number;
  itemId: number;
  courseId: number;
  dueAt: number | null;
}

/** Those of the pairs that are a learner in view and an item of a course that they are in. */
export async function pairsSeen(db: Db, viewer: Viewer, pairs: readonly Pair[]): Promise<PairInScope[]> {
  const rows = await db
    .from(
      db.raw(
        `(SELECT json_extract(value, '$[0]') AS learner_id, json_extract(value, '$[1]') AS item_id FROM json_each(?)) AS p`,
        [JSON.stringify(pairs)],
      ),
    )
    .join('item', 'item.id', 'p.item_id')
    .join('enrolment as e', (on) => on.on('e.learner_id', 'p.learner_id').andOn('e.course_id', 'item.course_id'))
    .whereNot('e.status', 'merged')
    .whereNull('item.removed_at')
    .where(enrolmentInScope(viewer, 'e'))
    .distinct('p.learner_id as learnerId', 'p.item_id as itemId', 'item.course_id as courseId', 'item.due_at as dueAt');
  return rows as PairInScope[];
}
