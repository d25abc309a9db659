/** Taking extensions: one that was given here stays, and the file's is told of. */
import { parseInstant } from '@/core/time/instant';
import { sayCount, plural } from '@/core/time/words';
import { checked, fault } from '../imports/rows';
import type { OpenImporter } from '../imports/importer';
import { findExtension, setExtension } from './extensions';
import { isNotFound, openWorkLookup } from './lookup';
import { StaleWork } from './stale-work';
import { nextBatch } from './work-changes';

export const openExtensionsImporter: OpenImporter = (raw, context) => {
  const lookup = openWorkLookup(raw);
  const stale = new StaleWork(raw, context.zone);
  const itemDue = raw.prepare('SELECT due_at FROM item WHERE id = ?').pluck();
  const staffId = raw.prepare('SELECT staff_id FROM import_run WHERE id = ?').pluck().get(context.runId) as
    number | null;
  let batch: number | null = null;
  let left = 0;
  return checked(
    context,
    (row) => {
      const found = lookup(row);
      if (isNotFound(found)) return found;
      const { learnerId, courseId, itemId } = found;
      const dueAt = row.due_at ? parseInstant(row.due_at, context.timezone) : null;
      const isExcused = row.excused === 'yes';
      if (dueAt === null && !isExcused) return fault('due_at', 'is missing: give a date, or excused yes');
      const usualDue = itemDue.get(itemId) as number | null;
      if (dueAt !== null && usualDue !== null && dueAt < usualDue)
        return fault('due_at', 'lies before the item’s own due date: an extension makes it later');
      const old = findExtension(raw, learnerId, itemId);
      const isSame = old !== null && old.due_at === dueAt && (old.excused === 1) === isExcused;
      if (old?.source === 'hand') {
        if (!isSame) left += 1;
        return 'duplicate';
      }
      // A file that leaves the reason out does not take it away.
      const reason = row.reason || old?.reason || '';
      if (isSame && old.reason === reason) return 'duplicate';
      batch ??= nextBatch(raw);
      const newExtension = { learnerId, itemId, staffId, at: context.now, reason };
      setExtension(raw, batch, newExtension, { dueAt, isExcused, source: 'file' });
      stale.add(learnerId, courseId, context.now);
      return 'accepted';
    },
    () => stale.flush(),
    () =>
      left === 0
        ? []
        : [`${sayCount(left, 'extension')} given here by hand ${plural(left, 'stays', 'stay')} as they were.`],
  );
};
