/** A kept report as programs read it. */
import { without } from '@/core/without';
import type { Viewer } from '@/data/scope';
import { isoOrNull } from '../request/values';
import type { Runtime } from '../runtime';
import { whoseShown, type ReportShown } from './kept';

/** Names in snake_case, instants in ISO 8601, learners by the ids that the viewer knows them by. */
export async function reportAnswer(runtime: Runtime, viewer: Viewer, report: ReportShown) {
  return {
    id: report.id,
    name: report.name,
    whose: await whoseShown(runtime, viewer, report.definition),
    ...without(report.definition, 'whose'),
    owner: report.owner,
    shared_with: report.shared.map(({ name }) => name),
    ready: report.isReady,
    revision: report.revision,
    changed_at: isoOrNull(report.changedAt),
    last_run: isoOrNull(report.lastRunAt),
  };
}
