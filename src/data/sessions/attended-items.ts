import { prepared, type RawConnection } from '../db';

/** Who attended sessions that are items of the outline and have ended by an instant, and when they came. */
export function attendedItems(
  raw: RawConnection,
  itemIds: readonly number[],
  now: number,
): [learner: number, at: number][] {
  return prepared(
    raw,
    `SELECT learner_id, at FROM session_outcome
     WHERE session_id IN (SELECT id FROM session WHERE item_id IN (SELECT value FROM json_each(?)))
       AND ends_at <= ? AND credit > 0`,
  )
    .raw()
    .all(JSON.stringify(itemIds), now) as [number, number][];
}
