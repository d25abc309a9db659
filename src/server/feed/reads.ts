/** What screens read of feed, each as its namesake in the data layer says. */
import * as feedGapsData from '@/data/feed/feed-gaps';
import * as sourcesData from '@/data/feed/sources';
import * as statementsData from '@/data/feed/xapi/statements';
import { reader } from '../request/reader';

export const listCredentials = reader(sourcesData.listCredentials);
export const listGaps = reader(feedGapsData.listGaps);
export const listSources = reader(sourcesData.listSources);
export const whatWaits = reader(statementsData.whatWaits);
