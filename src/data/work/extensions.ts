/** Extensions and excusals, with what stood before each. */
import { prepared, type RawConnection } from '../db';
import type { RowOf } from '../tables';
import { noteWorkChange } from './work-changes';

export type ExtensionRow = RowOf<'extension'>;

export interface NewExtension {
  learnerId: number;
  itemId: number;
  dueAt: number | null;
  isExcused: boolean;
  reason: string;
  source: ExtensionRow['source'];
  staffId: number | null;
  at: number;
}

export function findExtension(raw: RawConnection, learnerId: number, itemId: number): ExtensionRow | null {
  const found = prepared(raw, 'SELECT * FROM extension WHERE learner_id = ? AND item_id = ?').get(learnerId, itemId);
  return (found as ExtensionRow | undefined) ?? null;
}

/** Sets an extension, or takes it away where it is null, as a part of a batch. Returns whether anything changed. */
export function setExtension(
  raw: RawConnection,
  batch: number,
  { learnerId, itemId, staffId, at, reason }: Pick<NewExtension, 'learnerId' | 'itemId' | 'staffId' | 'at' | 'reason'>,
  next: Pick<NewExtension, 'dueAt' | 'isExcused' | 'source'> | null,
): boolean {
  const old = findExtension(raw, learnerId, itemId);
  const isSame =
    next === null
      ? old === null
      : old !== null &&
        old.due_at === next.dueAt &&
        (old.excused === 1) === next.isExcused &&
        old.reason === reason &&
        old.source === next.source;
  if (isSame) return false;
  prepared(raw, 'DELETE FROM extension WHERE learner_id = ? AND item_id = ?').run(learnerId, itemId);
  if (next !== null) {
    prepared(
      raw,
      `INSERT INTO extension (learner_id, item_id, due_at, excused, reason, source, staff_id, at)
       VALUES (?, ?, ?, ?, ?, ?, ?, ?)`,
    ).run(learnerId, itemId, next.dueAt, next.isExcused ? 1 : 0, reason, next.source, staffId, at);
  }
  const after = findExtension(raw, learnerId, itemId);
  noteWorkChange(raw, { batch, kind: 'extension', learnerId, itemId, at, staffId, before: old, after, reason });
  return true;
}
