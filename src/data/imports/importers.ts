import type { FileKindName } from '@/core/imports/kinds';
import { openAccessLogImporter } from '../access/take-access-log';
import { openOutlineImporter } from '../courses/take-outline';
import { openRosterImporter } from '../people/take-roster';
import { openMarksImporter } from '../sessions/take-marks';
import { openPresenceImporter } from '../sessions/take-presence';
import { openSessionsImporter } from '../sessions/take-sessions';
import { openStaffImporter } from '../staff/take-staff';
import { openExtensionsImporter } from '../work/take-extensions';
import { openResponsesImporter } from '../work/take-responses';
import { openResultsImporter } from '../work/take-results';
import type { OpenImporter } from './importer';

/** Who takes which kind of file. */
export const IMPORTERS: Record<FileKindName, OpenImporter> = {
  outline: openOutlineImporter,
  roster: openRosterImporter,
  staff: openStaffImporter,
  sessions: openSessionsImporter,
  presence: openPresenceImporter,
  marks: openMarksImporter,
  results: openResultsImporter,
  responses: openResponsesImporter,
  extensions: openExtensionsImporter,
  'access-log': openAccessLogImporter,
};
