/** What screens read of imports, each as its namesake in the data layer says. */
import { withRaw } from '@/data/db';
import { hasAnyLearner } from '@/data/people/roster';
import type { Runtime } from '../runtime';
import * as importRunsData from '@/data/imports/import-runs';
import * as mappingsData from '@/data/imports/mappings';
import { reader } from '../request/reader';

export const actionWords = reader(mappingsData.actionWords);
export const countUnsettledActions = reader(mappingsData.countUnsettledActions);
export const listActions = reader(mappingsData.listActions);
export const listMappings = reader(mappingsData.listMappings);
export const pastRuns = reader(importRunsData.pastRuns);

/** Is nobody known yet? */
export async function isNobodyKnown({ db }: Pick<Runtime, 'db'>): Promise<boolean> {
  return !(await withRaw(db, hasAnyLearner));
}
