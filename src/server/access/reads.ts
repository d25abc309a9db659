/** What screens read of access, each as its namesake in the data layer says. */
import * as namesData from '@/data/access/log/names';
import * as retentionData from '@/data/privacy/retention';
import { reader } from '../request/reader';

export const coursesInLog = reader(namesData.coursesInLog);
export const unitsOf = reader(namesData.unitsOf);
export const coursesWithoutLog = reader(retentionData.coursesWithoutLog);
