/** What screens read of drift, each as its namesake in the data layer says. */
import * as setAsideData from '@/data/drift/set-aside';
import * as viewData from '@/data/view';
import { reader } from '../request/reader';

export const isBeingRead = reader(viewData.isBeingRead);
export const listSetAside = reader(setAsideData.listSetAside);
