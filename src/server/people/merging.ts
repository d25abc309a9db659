/** Two records of one person. */
import { addAudit } from '@/data/audit';
import { writing } from '@/data/db';
import { keepInScope } from '@/data/people/learners';
import { lastMerge, mergeRecords, undoMerge, wholeRecords } from '@/data/people/merge';
import type { Viewer } from '@/data/scope';
import { isStaffMember } from '@/core/staff/rights';
import { InvalidInput, NotFound } from '../request/input';
import type { Runtime } from '../runtime';

/**
 * Makes two records of one person one. Only by somebody who sees everything of both: for anybody
 * else one of them does not exist. @throws NotFound, InvalidInput
 */
export async function mergeLearners(runtime: Runtime, viewer: Viewer, keptId: number, goneId: number): Promise<void> {
  const { db, clock } = runtime;
  if (keptId === goneId) throw new InvalidInput([{ field: 'learner_id', message: 'is this same record' }]);
  await writing(db, async (trx) => {
    if (!isStaffMember(viewer) || !(await wholeRecords(trx, viewer, [keptId, goneId])))
      throw new NotFound('No such learner');
    const at = clock.now();
    await mergeRecords(trx, { kept: keptId, gone: goneId, staffId: viewer.staffId || null, at });
    const merge = await lastMerge(trx, keptId);
    const subject = `${merge!.gone} into this record`;
    await addAudit(trx, { at, staff_id: viewer.staffId, learner_id: keptId, what: 'merged', subject });
  });
}

/** Takes the last merge into a record apart. @throws NotFound */
export async function unmergeLearners(runtime: Runtime, viewer: Viewer, keptId: number): Promise<void> {
  const { db, clock } = runtime;
  await writing(db, async (trx) => {
    const merge = await lastMerge(trx, keptId);
    if (!merge || !isStaffMember(viewer)) throw new NotFound('No merge to undo');
    if ((await keepInScope(trx, viewer, [keptId])).length === 0) throw new NotFound('No merge to undo');
    const at = clock.now();
    await undoMerge(trx, merge.id, at);
    // The record that comes back may be one the viewer does not see: then it all stays as it was.
    if (!(await wholeRecords(trx, viewer, [keptId, merge.gone_id]))) throw new NotFound('No merge to undo');
    const subject = `${merge.gone} from this record`;
    await addAudit(trx, { at, staff_id: viewer.staffId, learner_id: keptId, what: 'took apart', subject });
  });
}
