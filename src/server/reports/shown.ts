/** Kept reports as programs read them. */
import { without } from '@/core/without';
import { namesOf } from '@/data/people/learners';
import type { Viewer } from '@/data/scope';
import { isoOrNull } from '../request/values';
import type { Runtime } from '../runtime';
import type { ReportShown } from './kept';

/** Names in snake_case, instants in ISO 8601, learners by the ids that the viewer knows them by; whoever they may not see is left out. */
export async function reportAnswers({ db }: Pick<Runtime, 'db'>, viewer: Viewer, reports: readonly ReportShown[]) {
  const people = [...new Set(reports.flatMap(({ definition }) => definition.whose.people ?? []))];
  const ids = new Map((await namesOf(db, viewer, people)).map(({ id, learner_id }) => [id, learner_id]));
  return reports.map((report) => {
    const { people: chosen, ...whose } = report.definition.whose;
    const learners = chosen && { learners: chosen.flatMap((id) => ids.get(id) ?? []) };
    return {
      id: report.id,
      name: report.name,
      whose: { ...whose, ...learners },
      ...without(report.definition, 'whose'),
      owner: report.owner,
      shared_with: report.shared.map(({ name }) => name),
      ready: report.isReady,
      revision: report.revision,
      changed_at: isoOrNull(report.changedAt),
      last_run: isoOrNull(report.lastRunAt),
    };
  });
}
