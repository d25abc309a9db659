import type { FileKindName } from '@/core/imports/kinds';
import { openAccessLogImporter } from '../access/take-access-log';
import { openParticipantsImporter } from '../access/take-participants';
import { openCompletionImporter } from '../completion/take-completion';
import { openOutlineImporter } from '../courses/take-outline';
import { openContactsImporter } from '../people/take-contacts';
import { openRosterImporter } from '../people/take-roster';
import { openPostsImporter } from '../posts/take-posts';
import { openMarksImporter } from '../sessions/take-marks';
import { openPresenceImporter } from '../sessions/take-presence';
import { openSessionsImporter } from '../sessions/take-sessions';
import { openStaffImporter } from '../staff/take-staff';
import { openSurveyAnswersImporter } from '../surveys/take-survey-answers';
import { openExtensionsImporter } from '../work/take-extensions';
import { openGradebookImporter } from '../work/take-gradebook';
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
  gradebook: openGradebookImporter,
  responses: openResponsesImporter,
  extensions: openExtensionsImporter,
  completion: openCompletionImporter,
  participants: openParticipantsImporter,
  contacts: openContactsImporter,
  posts: openPostsImporter,
  'survey-answers': openSurveyAnswersImporter,
  'access-log': openAccessLogImporter,
};
