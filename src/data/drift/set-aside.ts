/** Learners somebody took off their own Watch for a while. */
import type { Db } from '../db';
import { freeText, personColumns } from '../person';
import { courseRowInScope, learnerInScope, type Viewer } from '../scope';

/**
 * What holds now: not ended by hand, its day not reached, and, where it waits for the learner, no visit of theirs in the
 * viewer's courses that began since, no hand-in and no session. Whoever was online that very minute has not come back by going
 * on. So it ends by itself, without anybody's doing.
 */
function openNow(db: Db, viewer: Viewer, today: number) {
  const since = 'ifnull(set_aside.back_after, set_aside.created_at)';
  const visit = db('visit_course as v')
    .whereRaw(`v.learner_id = set_aside.learner_id AND v.visit_start > ${since}`)
    .where(courseRowInScope(db, viewer, 'v'));
  const handIn = db
    .from(
      db('attempt')
        .join('item', 'item.id', 'attempt.item_id')
        .select('attempt.learner_id', 'item.course_id', 'attempt.submitted_at')
        .as('a'),
    )
    .whereRaw(`a.learner_id = set_aside.learner_id AND a.submitted_at > ${since}`)
    .where(courseRowInScope(db, viewer, 'a'));
  const session = db('session_outcome as o')
    .whereRaw(`o.learner_id = set_aside.learner_id AND o.at > ${since} AND o.credit > 0`)
    .where(courseRowInScope(db, viewer, 'o'));
  return db('set_aside')
    .where('set_aside.staff_id', viewer.staffId)
    .whereNull('set_aside.ended_at')
    .where((q) =>
      q
        .where('until_day', '>', today)
        .orWhere((back) =>
          back.whereNull('until_day').whereNotExists(visit).whereNotExists(handIn).whereNotExists(session),
        ),
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
