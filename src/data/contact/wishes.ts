/** What learners wish of how they are written to. */
import { WISHES, type Wish } from '@/core/contact/wishes';
import { groupBy } from '@/core/group-by';
import type { Db } from '../db';
import { staffName } from '../person';
import type { Viewer } from '../scope';
import { idList } from '../view';

/** The wishes of some learners, by their number; nobody's are none. */
export async function wishesOf(db: Db, learnerIds: readonly number[]): Promise<Map<number, Wish[]>> {
  const rows = await db('wish').whereIn('learner_id', idList(db, learnerIds)).select('learner_id', 'wish');
  const known = groupBy(rows, ({ learner_id }) => learner_id);
  return new Map([...known].map(([id, own]) => [id, WISHES.filter((wish) => own.some((one) => one.wish === wish))]));
}

export interface NotedWish {
  wish: Wish;
  at: number;
  /** Who noted it; null for the learner themselves. */
  by: string | null;
}

/** One learner's wishes, with who noted each. */
export async function notedWishes(db: Db, viewer: Viewer, learnerId: number): Promise<NotedWish[]> {
  return db('wish')
    .leftJoin('staff', 'staff.id', 'wish.staff_id')
    .where('wish.learner_id', learnerId)
    .orderBy('wish.at')
    .select('wish.wish', 'wish.at', db.raw(`${staffName(viewer)} AS "by"`));
}

/** Has a learner wish exactly this; what was wished before keeps who noted it, and when. */
export async function storeWishes(
  trx: Db,
  learnerId: number,
  wishes: readonly Wish[],
  noted: { at: number; staff_id: number | null },
): Promise<void> {
  await trx('wish')
    .where('learner_id', learnerId)
    .whereNotIn('wish', [...wishes])
    .delete();
  for (const wish of wishes)
    await trx('wish')
      .insert({ learner_id: learnerId, wish, ...noted })
      .onConflict(['learner_id', 'wish'])
      .ignore();
}
