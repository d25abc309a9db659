import type { FileKindName } from '@/core/imports/kinds';
import { openAccessLogTaker } from '../access/take-access-log';
import { openOutlineTaker } from '../courses/take-outline';
import { openRosterTaker } from '../people/take-roster';
import { openMarksTaker } from '../sessions/take-marks';
import { openPresenceTaker } from '../sessions/take-presence';
import { openSessionsTaker } from '../sessions/take-sessions';
import { openStaffTaker } from '../staff/take-staff';
import { openExtensionsTaker } from '../work/take-extensions';
import { openResponsesTaker } from '../work/take-responses';
import { openResultsTaker } from '../work/take-results';
import type { OpenTaker } from './importer';

/** Who takes which kind of file. */
export const TAKERS: Record<FileKindName, OpenTaker> = {
  outline: openOutlineTaker,
  roster: openRosterTaker,
  staff: openStaffTaker,
  sessions: openSessionsTaker,
  presence: openPresenceTaker,
  marks: openMarksTaker,
  results: openResultsTaker,
  responses: openResponsesTaker,
  extensions: openExtensionsTaker,
  'access-log': openAccessLogTaker,
};
