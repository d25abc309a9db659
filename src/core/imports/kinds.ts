/** The kinds of file that are taken: each is its row class, and what the file holds in words. */
import { columnsOf, type Column } from './column';
import { AccessLogRow } from './rows/access-log';
import { ContactRow } from './rows/contacts';
import { OutlineRow } from './rows/outline';
import { CompletionRow, ParticipantRow } from './rows/participants';
import { PostRow, SurveyAnswerRow } from './rows/posts';
import { RosterRow } from './rows/roster';
import { MarkRow, PresenceRow, SessionRow } from './rows/sessions';
import { StaffRow } from './rows/staff';
import { ExtensionRow, GradebookRow, ResponseRow, ResultRow } from './rows/work';

interface FileKind {
  row: new () => object;
  says: string;
}

/** In the order in which a programme's files are best brought in. */
export const FILE_KINDS = {
  outline: { row: OutlineRow, says: 'courses, units and items' },
  roster: { row: RosterRow, says: 'learners and their enrolments' },
  staff: { row: StaffRow, says: 'staff with their roles and scopes' },
  sessions: { row: SessionRow, says: 'the timetable: when and where each group meets, or an iCalendar file' },
  presence: { row: PresenceRow, says: 'who was in a session, from when to when' },
  marks: { row: MarkRow, says: 'the marks of rolls taken elsewhere' },
  results: { row: ResultRow, says: 'attempts: when begun and handed in, scores and feedback' },
  gradebook: { row: GradebookRow, says: 'the scores that count, as a platform has them' },
  responses: { row: ResponseRow, says: 'answers to the questions of quizzes' },
  extensions: { row: ExtensionRow, says: 'learners’ own due dates, and who is excused' },
  completion: { row: CompletionRow, says: 'who has done what, as a platform says' },
  participants: { row: ParticipantRow, says: 'who is in a course, and when they were last there' },
  contacts: { row: ContactRow, says: 'family, employers and others around learners' },
  posts: { row: PostRow, says: 'what was written in discussions' },
  'survey-answers': { row: SurveyAnswerRow, says: 'answers to surveys, with or without a name' },
  'access-log': { row: AccessLogRow, says: 'who opened or did what, and when' },
} as const satisfies Record<string, FileKind>;

export type FileKindName = keyof typeof FILE_KINDS;
export const FILE_KIND_NAMES = Object.keys(FILE_KINDS) as FileKindName[];

export function isFileKind(name: string): name is FileKindName {
  return Object.hasOwn(FILE_KINDS, name);
}

/** The columns of a kind by name, in the order of its class. */
export function columnsOfKind(kind: FileKindName): ReadonlyMap<string, Column> {
  return columnsOf(FILE_KINDS[kind].row);
}

/** Names of a kind's columns, in their order. */
export function columnNames(kind: FileKindName): string[] {
  return [...columnsOfKind(kind).keys()];
}
