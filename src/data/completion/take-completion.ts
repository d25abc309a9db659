/** Taking what a platform says is done: it stands beside the rule as a mark of nobody's, and one set by hand goes before it. */
import { parseInstant } from '@/core/time/instant';
import { prepared } from '../db';
import { checked } from '../imports/rows';
import type { OpenImporter } from '../imports/importer';
import { isNotFound, openWorkLookup } from '../work/lookup';
import { StaleWork } from '../work/stale-work';
import { nextBatch } from '../work/work-changes';
import { setCompletionOverride, type CompletionOverrideRow } from './overrides';

/** Why an item counts as done that a platform's file says so of. */
const BY_PLATFORM = 'as the platform says';

export const openCompletionImporter: OpenImporter = (raw, context) => {
  const lookup = openWorkLookup(raw);
  const stale = new StaleWork(raw, context.zone);
  let batch: number | null = null;
  const states = { yes: 'done', excused: 'exempt', no: null } as const;
  return checked(
    context,
    (row) => {
      const found = lookup(row);
      if (isNotFound(found)) return found;
      const { learnerId, courseId, itemId } = found;
      const state = states[(row.done || (row.done_at ? 'yes' : 'no')) as keyof typeof states];
      const old = prepared(raw, 'SELECT * FROM completion_override WHERE learner_id = ? AND item_id = ?').get(
        learnerId,
        itemId,
      ) as CompletionOverrideRow | undefined;
      if (old ? old.staff_id !== null || old.state === state : state === null) return 'duplicate';
      const at = row.done_at ? parseInstant(row.done_at, context.timezone)! : context.now;
      batch ??= nextBatch(raw);
      setCompletionOverride(raw, batch, { learnerId, itemId, staffId: null, at, reason: BY_PLATFORM }, state);
      stale.add(learnerId, courseId, at, old?.at ?? null);
      return 'accepted';
    },
    () => stale.flush(),
  );
};
