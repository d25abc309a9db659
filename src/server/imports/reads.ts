/** What screens read of imports, each as its namesake in the data layer says. */
import { isLead } from '@/core/staff/rights';
import { withRaw } from '@/data/db';
import { hasAnyLearner } from '@/data/people/roster';
import type { Viewer } from '@/data/scope';
import type { Runtime } from '../runtime';
import * as importRunsData from '@/data/imports/import-runs';
import * as addressesData from '@/data/imports/addresses';
import * as shapesData from '@/data/imports/remembered-shapes';
import * as mappingsData from '@/data/imports/mappings';
import { reader } from '../request/reader';

export const actionWords = reader(mappingsData.actionWords);
export const countUnsettledActions = reader(mappingsData.countUnsettledActions);
export const listActions = reader(mappingsData.listActions);
export const listMappings = reader(mappingsData.listMappings);
export const listShapes = reader(shapesData.listShapes);
export const pastRuns = reader(importRunsData.pastRuns);

export const listAddresses = reader(addressesData.listAddresses);

/** What was stopped longer ago than this is no news, in ms. */
const NEWS = 7 * 86_400_000;

/** How many things that should come by themselves did not, lately; nobody but a lead is told. */
export async function countNotComing({ db, clock }: Pick<Runtime, 'db' | 'clock'>, viewer: Viewer): Promise<number> {
  return isLead(viewer) ? addressesData.countNotComing(db, clock.now() - NEWS) : 0;
}

/** Is nobody known yet? */
export async function isNobodyKnown({ db }: Pick<Runtime, 'db'>): Promise<boolean> {
  return !(await withRaw(db, hasAnyLearner));
}
