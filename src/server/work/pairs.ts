/** Which learners' items a deed is about, of those that the viewer sees. */
import type { Db } from '@/data/db';
import { isStaffMember } from '@/core/staff/rights';
import type { Viewer } from '@/data/scope';
import { pairsSeen, type Pair, type PairInScope } from '@/data/work/pairs';
import { InvalidInput, NotFound } from '../request/input';

export type { Pair, PairInScope };

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
  const rows = await pairsSeen(db, viewer, given);
  if (rows.length === 0) throw new NotFound('No such learner or item');
  return rows;
}
