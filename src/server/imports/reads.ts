/** What screens read of imports, each as its namesake in the data layer says. */
import * as importRunsData from '@/data/imports/import-runs';
import * as mappingsData from '@/data/imports/mappings';
import { reader } from '../request/reader';

export const actionWords = reader(mappingsData.actionWords);
export const countUnsettledActions = reader(mappingsData.countUnsettledActions);
export const listActions = reader(mappingsData.listActions);
export const listMappings = reader(mappingsData.listMappings);
export const pastRuns = reader(importRunsData.pastRuns);
