import type { FileKindName } from '@/core/imports/kinds';
import { openAccessLogTaker } from '../access/take-access-log';
import { openOutlineTaker } from '../courses/take-outline';
import { openRosterTaker } from '../people/take-roster';
import { openStaffTaker } from '../staff/take-staff';
import type { OpenTaker } from './taker';

/** Who takes which kind of file. */
export const TAKERS: Record<FileKindName, OpenTaker> = {
  outline: openOutlineTaker,
  roster: openRosterTaker,
  staff: openStaffTaker,
  'access-log': openAccessLogTaker,
};
