/** What screens read of staff, each as its namesake in the data layer says. */
import * as staffAccountsData from '@/data/staff/staff-accounts';
import * as staffData from '@/data/staff/staff';
import { reader } from '../request/reader';
import { emergencyLead } from './provider/rules';
import { rolesWithSecond } from './second-factor-roles';

export const anyAccount = reader(staffData.anyAccount);
/** The lead who alone comes in without the provider; null where everybody may. */
export const emergency = reader(emergencyLead);
/** Of which roles a second factor is asked for. */
export const secondRoles = reader(rolesWithSecond);
export const listStaff = reader(staffAccountsData.listStaff);
