/** What screens read of staff, each as its namesake in the data layer says. */
import * as staffAccountsData from '@/data/staff/staff-accounts';
import * as staffData from '@/data/staff/staff';
import { reader } from '../request/reader';

export const anyAccount = reader(staffData.anyAccount);
export const listStaff = reader(staffAccountsData.listStaff);
