/** What screens read of the installation itself, each as its namesake in the data layer says. */
import * as auditData from '@/data/audit';
import * as dbData from '@/data/db';
import { reader } from './reader';

export const findAudit = reader(auditData.findAudit);
export const isMigrated = reader(dbData.isMigrated);
