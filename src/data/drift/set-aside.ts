/** Learners somebody took off their own Watch for a while. */
import type { Db } from '../db';
import { freeText, personColumns } from '../person';
import { courseRowInScope, learnerInScope, type Viewer } from '../scope';

/**
 * What holds now: not ended by hand, its day not reached, and, where it waits for the learner,
 * nothing of theirs in the viewer's courses since, beside what was known by then. So it ends by itself, without anybody's doing.
 */
function openNow(db: Db, viewer: Viewer, today: number) {
  const backSince = db('learner_course as lc')
    .whereRaw(
      'lc.learner_id = set_aside.learner_id AND lc.last_at > ifnull(set_aside.back_after, set_aside.created_at)',
    )
    .where(courseRowInScope(db, viewer, 'lc'));
  return db('set_aside')
    .where('set_aside.staff_id', viewer.staffId)
    .whereNull('set_aside.ended_at')
    .where((q) =>
      q.where('until_day', '>', today).orWhere((back) => back.whereNull('until_day').whereNotExists(backSince)),
    );
}

export interface SetAsideRow {
  id: number;
  /** The database's id of the learner. */
  person: number;
  learner_id: string;
  name: string;
  reason: string;
  until_day: number | null;
  created_at: number;
}

/** Ids of the learners who are set aside by the viewer now. */
export async function setAsideIds(db: Db, viewer: Viewer, today: number): Promise<number[]> {
  return openNow(db, viewer, today).pluck('set_aside.learner_id');
}

export async function listSetAside(db: Db, viewer: Viewer, today: number): Promise<SetAsideRow[]> {
  const { id, name } = personColumns(viewer);
  return openNow(db, viewer, today)
    .join('learner', 'learner.id', 'set_aside.learner_id')
    .where(learnerInScope(db, viewer))
    .orderByRaw('until_day IS NULL, until_day, set_aside.id')
    .select(
      'set_aside.id',
      'learner.id as person',
      db.raw(`${id} AS learner_id`),
      db.raw(`${name} AS name`),
      db.raw(`${freeText(viewer, 'reason')} AS reason`),
      'until_day',
      'set_aside.created_at',
    );
}

/** Sets learners aside; for one who is already, the new reason and end hold. */
export async function addSetAside(
  trx: Db,
  staffId: number,
  learnerIds: readonly number[],
  reason: string,
  untilDay: number | null,
  now: number,
): Promise<void> {
  await endSetAside(trx, staffId, learnerIds, now);
  await trx.batchInsert(
    'set_aside',
    learnerIds.map((learner_id) => ({ staff_id: staffId, learner_id, reason, until_day: untilDay, created_at: now })),
    100,
  );
  // A source's clock may run a little ahead of ours: what is known of somebody by now is no coming back.
  await trx('set_aside')
    .where('staff_id', staffId)
    .whereIn('learner_id', learnerIds)
    .whereNull('ended_at')
    .update({
      back_after: trx.raw(
        'max(created_at, ifnull((SELECT max(at) FROM event WHERE event.learner_id = set_aside.learner_id), 0))',
      ),
    });
}

export async function endSetAside(trx: Db, staffId: number, learnerIds: readonly number[], now: number): Promise<void> {
  await trx('set_aside')
    .where('staff_id', staffId)
    .whereIn('learner_id', learnerIds)
    .whereNull('ended_at')
    .update({ ended_at: now });
}
