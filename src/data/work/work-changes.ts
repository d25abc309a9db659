/** Changes of somebody's work by hand: what stood before each, so that a deed can be undone, and its history. */
import { prepared, type RawConnection } from '../db';
import type { RowOf } from '../tables';

export type WorkChangeRow = RowOf<'work_change'>;

interface NewChange {
  batch: number;
  kind: WorkChangeRow['kind'];
  learnerId: number;
  itemId: number;
  at: number;
  staffId: number | null;
  before: object | null;
  after: object | null;
  reason: string;
}

/** A number for the changes of one deed. */
export function nextBatch(raw: RawConnection): number {
  return prepared(raw, 'SELECT ifnull(max(batch), 0) + 1 FROM work_change').pluck().get() as number;
}

export function noteWorkChange(raw: RawConnection, change: NewChange): void {
  const { batch, kind, learnerId, itemId, at, staffId, before, after, reason } = change;
  const json = (row: object | null) => (row === null ? null : JSON.stringify(row));
  prepared(
    raw,
    `INSERT INTO work_change (batch, kind, learner_id, item_id, at, staff_id, before, after, reason)
     VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)`,
  ).run(batch, kind, learnerId, itemId, at, staffId, json(before), json(after), reason);
}

/** The cells that a batch of somebody's changed, where it has not been undone. */
export function pairsOfBatch(raw: RawConnection, batch: number, staffId: number | null): [number, number][] {
  return prepared(
    raw,
    'SELECT DISTINCT learner_id, item_id FROM work_change WHERE batch = ? AND staff_id IS ? AND undone_at IS NULL',
  )
    .raw()
    .all(batch, staffId) as [number, number][];
}

/** The table that a kind of change is of. */
const TABLE = { completion: 'completion_override', extension: 'extension' } as const;

/**
 * Puts back what stood before a batch, where what it set still stands: what has been changed since stays.
 *
 * @returns the changes that were undone; null when there is no such batch of that person's, or it was undone before
 */
export function undoBatch(
  raw: RawConnection,
  batch: number,
  staffId: number | null,
  at: number,
): WorkChangeRow[] | null {
  const changes = prepared(
    raw,
    'SELECT * FROM work_change WHERE batch = ? AND staff_id IS ? AND undone_at IS NULL ORDER BY id DESC',
  ).all(batch, staffId) as WorkChangeRow[];
  if (changes.length === 0) return null;
  const done = changes.filter((change) => {
    const table = TABLE[change.kind];
    const now = prepared(raw, `SELECT * FROM ${table} WHERE learner_id = ? AND item_id = ?`).get(
      change.learner_id,
      change.item_id,
    ) as object | undefined;
    if ((now === undefined ? null : JSON.stringify(now)) !== change.after) return false;
    prepared(raw, `DELETE FROM ${table} WHERE learner_id = ? AND item_id = ?`).run(change.learner_id, change.item_id);
    if (change.before !== null) {
      const row = JSON.parse(change.before) as Record<string, number | string | null>;
      const names = Object.keys(row);
      prepared(raw, `INSERT INTO ${table} (${names.join(', ')}) VALUES (${names.map(() => '?').join(', ')})`).run(
        ...Object.values(row),
      );
    }
    return true;
  });
  prepared(raw, 'UPDATE work_change SET undone_at = ? WHERE batch = ?').run(at, batch);
  return done;
}
