/** What a change of an item means for those who have worked on it already. */
import { sayCount, plural } from '@/core/time/words';
import type { RawConnection } from '../db';

/** Columns of an item that decide when it is done, due and how it counts. */
export const RULING = ['kind', 'required', 'due_at', 'points', 'category', 'weight', 'done_when'] as const;
export type Ruling = (typeof RULING)[number];

/** Says who is affected by a change of some items: those who have handed in or begun them. Nothing where nobody has. */
export function affectedBy(raw: RawConnection, itemIds: ReadonlySet<number>): string[] {
  if (itemIds.size === 0) return [];
  const { learners, items } = raw
    .prepare(
      `SELECT count(DISTINCT learner_id) AS learners, count(DISTINCT item_id) AS items FROM attempt
       WHERE item_id IN (SELECT value FROM json_each(?))`,
    )
    .get(JSON.stringify([...itemIds])) as { learners: number; items: number };
  if (learners === 0) return [];
  return [
    `${sayCount(items, 'item')} that ${sayCount(learners, 'learner')} had worked on ${plural(items, 'was', 'were')} changed: what is done, owed and graded was worked out anew.`,
  ];
}
