import type { FileKindName } from '@/core/formats/kinds';
import { openAccessLogTaker } from './take-access-log';
import { openOutlineTaker, openRosterTaker, openStaffTaker } from './take-roster';
import type { OpenTaker } from './taker';

/** Who takes which kind of file. */
export const TAKERS: Record<FileKindName, OpenTaker> = {
  outline: openOutlineTaker,
  roster: openRosterTaker,
  staff: openStaffTaker,
  'access-log': openAccessLogTaker,
};
