/** Which learners' items a deed is about, of those that the viewer sees. */
import type { Db } from '@/data/db';
import { isStaffMember } from '@/core/staff/rights';
import type { Viewer } from '@/data/scope';
import { enrolmentInScope } from '@/data/scope';
import { InvalidInput, NotFound } from '../request/input';

/** A learner and an item, by the database's numbers. */
export type Pair = readonly [learnerId: number, itemId: number];

export interface PairInScope {
  learnerId: number;
  itemId: number;
  courseId: number;
  dueAt: number | null;
}

/** Cells that one deed may change. */
const MOST = 20_000;

/**
 * Those of the pairs that are a learner in view and an item of a course that they are in.
 *
 * @throws NotFound when there is none, or for somebody who may only look; InvalidInput for too many
 */
export async function pairsInScope(db: Db, viewer: Viewer, pairs: unknown): Promise<PairInScope[]> {
  if (!isStaffMember(viewer)) throw new NotFound();
  const given = (Array.isArray(pairs) ? pairs : []).filter(
    (one): one is Pair => Array.isArray(one) && one.length === 2 && one.every((part) => Number.isSafeInteger(part)),
  );
  if (given.length > MOST) throw new InvalidInput([{ field: 'cells', message: `are more than ${MOST}: go in parts` }]);
  const rows = await db
    .from(
      db.raw(
        `(SELECT json_extract(value, '$[0]') AS learner_id, json_extract(value, '$[1]') AS item_id FROM json_each(?)) AS p`,
        [JSON.stringify(given)],
      ),
    )
    .join('item', 'item.id', 'p.item_id')
    .join('enrolment as e', (on) => on.on('e.learner_id', 'p.learner_id').andOn('e.course_id', 'item.course_id'))
    .whereNot('e.status', 'merged')
    .whereNull('item.removed_at')
    .where(enrolmentInScope(viewer, 'e'))
    .distinct('p.learner_id as learnerId', 'p.item_id as itemId', 'item.course_id as courseId', 'item.due_at as dueAt');
  if (rows.length === 0) throw new NotFound('No such learner or item');
  return rows as PairInScope[];
}
