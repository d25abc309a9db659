/** Items marked done or exempt by a person, with every change kept. */
import { prepared, type RawConnection } from '../db';
import type { RowOf } from '../tables';
import { noteWorkChange } from '../work/work-changes';

export type CompletionOverrideRow = RowOf<'completion_override'>;

/** Marks an item done or exempt for a learner, or clears the mark; a part of a batch. Returns whether anything changed. */
export function setCompletionOverride(
  raw: RawConnection,
  batch: number,
  {
    learnerId,
    itemId,
    staffId,
    at,
    reason,
  }: { learnerId: number; itemId: number; staffId: number | null; at: number; reason: string },
  state: CompletionOverrideRow['state'] | null,
): boolean {
  const find = prepared(raw, 'SELECT * FROM completion_override WHERE learner_id = ? AND item_id = ?');
  const old = (find.get(learnerId, itemId) as CompletionOverrideRow | undefined) ?? null;
  if ((old?.state ?? null) === state && (old === null || old.reason === reason)) return false;
  prepared(raw, 'DELETE FROM completion_override WHERE learner_id = ? AND item_id = ?').run(learnerId, itemId);
  if (state !== null) {
    prepared(
      raw,
      'INSERT INTO completion_override (learner_id, item_id, state, reason, staff_id, at) VALUES (?, ?, ?, ?, ?, ?)',
    ).run(learnerId, itemId, state, reason, staffId, at);
  }
  const after = (find.get(learnerId, itemId) as CompletionOverrideRow | undefined) ?? null;
  noteWorkChange(raw, { batch, kind: 'completion', learnerId, itemId, at, staffId, before: old, after, reason });
  return true;
}
