import type { FileKindName } from '@/core/imports/kinds';
import { openAccessLogTaker } from '../access/take-access-log';
import { openOutlineTaker, openRosterTaker, openStaffTaker } from '../people/take-roster';
import type { OpenTaker } from './taker';

/** Who takes which kind of file. */
export const TAKERS: Record<FileKindName, OpenTaker> = {
  outline: openOutlineTaker,
  roster: openRosterTaker,
  staff: openStaffTaker,
  'access-log': openAccessLogTaker,
};
