/** Everything that is held on a person, by kind, as it is stored; a test holds the kinds against the schema. */
import type { RawConnection } from '../db';

export interface RecordKind {
  /** The table it is kept in. */
  table: string;
  /** What it is, for whoever it is of. */
  title: string;
  /** Where it comes from. */
  from: string;
  /** How its rows are found, where not by the learner's number. */
  where?: string;
  order?: string;
}

const FILE = 'a file, or by hand';
const HAND = 'written here by staff';
const DERIVED = 'worked out from the access log';
const OF_ENROLMENT =
  'enrolment_id IN (SELECT id FROM enrolment WHERE learner_id IN (SELECT value FROM json_each(:ids)))';
const OF_MESSAGE = 'message_id IN (SELECT id FROM message WHERE learner_id IN (SELECT value FROM json_each(:ids)))';

/** In the order of the record. */
export const RECORD_KINDS: readonly RecordKind[] = [
  { table: 'learner', title: 'Who they are', from: FILE, where: 'id IN (SELECT value FROM json_each(:ids))' },
  { table: 'enrolment', title: 'Courses', from: FILE },
  { table: 'learner_contact', title: 'People around them', from: FILE },
  { table: 'staff_scope', title: 'Staff who are set to see them by name', from: 'the staff file, or by hand' },
  { table: 'caseload_learner', title: 'Caseloads they are on', from: HAND },
  { table: 'event', title: 'Access log', from: 'log files and feeds; the source stands in each row', order: 'at' },
  { table: 'visit_course', title: 'Visits', from: DERIVED },
  { table: 'learner_day', title: 'Days', from: DERIVED },
  { table: 'item_day', title: 'Items by day', from: DERIVED },
  { table: 'learner_course', title: 'Courses as a whole', from: DERIVED },
  { table: 'platform_snapshot', title: 'What the course platform says of them', from: 'files of participants' },
  { table: 'watched', title: 'Films watched', from: 'statements of learning' },
  { table: 'result_statement', title: 'Statements of results', from: 'statements of learning' },
  {
    table: 'statement',
    title: 'Statements as they came',
    from: 'statements of learning',
    where: `id IN (SELECT statement_id FROM result_statement WHERE learner_id IN (SELECT value FROM json_each(:ids)))
      OR event_id IN (SELECT id FROM event WHERE learner_id IN (SELECT value FROM json_each(:ids)))`,
  },
  {
    table: 'attempt',
    title: 'Work handed in',
    from: 'files of results, statements, or by hand: the source stands in each row',
  },
  { table: 'response', title: 'Answers to questions', from: 'files of responses, or statements' },
  { table: 'grade_change', title: 'Grades that were changed', from: 'noted by itself' },
  { table: 'extension', title: 'Extensions', from: FILE },
  { table: 'completion_override', title: 'Marked done or exempt', from: HAND },
  { table: 'work_change', title: 'Changes of work owed', from: 'noted by itself' },
  { table: 'enrolment_progress', title: 'Progress', from: 'worked out from the above', where: OF_ENROLMENT },
  {
    table: 'attendance',
    title: 'Attendance',
    from: 'files of marks, check-in, or by hand: the source stands in each row',
  },
  { table: 'attendance_change', title: 'Changes of attendance', from: 'noted by itself' },
  { table: 'presence', title: 'Presence in sessions', from: 'files of meetings' },
  { table: 'presence_row', title: 'Presence as it came', from: 'files of meetings' },
  { table: 'presence_alias', title: 'Names they are known by in meetings', from: HAND },
  { table: 'check_in', title: 'Check-in', from: 'their own device' },
  { table: 'post', title: 'What they wrote in discussions', from: 'files of posts, or statements' },
  { table: 'survey_answer', title: 'Survey answers', from: 'files of survey answers' },
  {
    table: 'wish',
    title: 'What they wish of messages',
    from: 'noted by staff, or their own press where nobody is named',
  },
  { table: 'message', title: 'Messages', from: HAND },
  { table: 'answer_link', title: 'Answers by a press', from: 'their own press', where: OF_MESSAGE },
  { table: 'page_link', title: 'Pages at an address of their own', from: 'made for a message', where: OF_MESSAGE },
  { table: 'draft_recipient', title: 'Messages begun', from: HAND },
  { table: 'reply', title: 'Their answers', from: 'mail to this installation' },
  { table: 'call', title: 'Calls and meetings', from: HAND },
  { table: 'note', title: 'Notes', from: HAND },
  { table: 'follow_up', title: 'Follow-ups', from: HAND },
  { table: 'flare', title: 'Flares', from: HAND },
  { table: 'set_aside', title: 'Set aside on a Watch', from: HAND },
  { table: 'drift_reading', title: 'Readings of drift', from: 'worked out from all of the above', where: OF_ENROLMENT },
  { table: 'certificate', title: 'Certificates', from: 'given here by staff' },
  { table: 'audit', title: 'Changes to their record', from: 'noted by itself' },
  {
    table: 'merge',
    title: 'Records made one',
    from: HAND,
    where: 'kept_id IN (SELECT value FROM json_each(:ids)) OR gone_id IN (SELECT value FROM json_each(:ids))',
  },
  { table: 'erasure', title: 'Erasures asked for', from: HAND },
  { table: 'look', title: 'Who looked', from: 'noted by itself', order: 'at' },
];

/** Columns that say nothing about a person: keys of rows, and secrets of addresses. */
const LEFT_OUT = /^(id|learner_id|token_hash|sort_key|find_key|mark|folded|origin|device|revision|batch|position)$/;

/** What a number points to, by the column that holds it: the words in its place. */
const NAMED: Readonly<Record<string, string>> = {
  course_id: '(SELECT code FROM course r WHERE r.id = t.course_id)',
  item_id: '(SELECT external_id FROM item r WHERE r.id = t.item_id)',
  group_id: '(SELECT name FROM course_group r WHERE r.id = t.group_id)',
  session_id: '(SELECT external_id FROM session r WHERE r.id = t.session_id)',
  organisation_id: '(SELECT name FROM organisation r WHERE r.id = t.organisation_id)',
  source_id: '(SELECT name FROM source r WHERE r.id = t.source_id)',
  action_id: '(SELECT word FROM action r WHERE r.id = t.action_id)',
  question_id: '(SELECT external_id FROM question r WHERE r.id = t.question_id)',
  template_id: '(SELECT name FROM template r WHERE r.id = t.template_id)',
  caseload_id: '(SELECT name FROM caseload r WHERE r.id = t.caseload_id)',
  draft_id: '(SELECT subject FROM draft r WHERE r.id = t.draft_id)',
  message_id: 't.message_id',
  enrolment_id: '(SELECT r.code FROM enrolment e JOIN course r ON r.id = e.course_id WHERE e.id = t.enrolment_id)',
};
/** Of a survey the question is another table's. */
const QUESTIONS = '(SELECT question FROM survey_question r WHERE r.id = t.question_id)';
const STAFF = /^(staff_id|owner_id|made_by|closed_by|ended_by|revoked_by|dismissed_by|coordinator_id|taken_back_by)$/;
const FILES = /^(seen_run|provisional)$/;
const KEYS = /^(kept_id|gone_id|merged_into|contact_id|statement_id|event_id)$/;

/** A row of the record: columns by name, times and days still as numbers. */
export type RecordRow = Record<string, string | number | null>;

/** The rows of a kind that are some records', one by one. */
export function* recordRows(raw: RawConnection, kind: RecordKind, ids: readonly number[]): Generator<RecordRow> {
  const columns = raw.pragma(`table_info("${kind.table}")`) as { name: string }[];
  const read = columns.flatMap(({ name }) => {
    if (LEFT_OUT.test(name)) return [];
    if (kind.table === 'survey_answer' && name === 'question_id') return [`${QUESTIONS} AS question`];
    if (STAFF.test(name))
      return [
        `(SELECT trim(given_name || ' ' || family_name) FROM staff r WHERE r.id = t.${name}) AS "${name === 'staff_id' ? 'staff' : name.replace(/_(id|by)$/, '')}"`,
      ];
    if (FILES.test(name)) return [`(SELECT file_name FROM import_run r WHERE r.id = t.${name}) AS "file_${name}"`];
    if (KEYS.test(name)) return [`t."${name}" AS "${name.replace(/_id$/, '')}_number"`];
    if (Object.hasOwn(NAMED, name)) return [`${NAMED[name]} AS "${name.replace(/_id$/, '')}"`];
    return [`t."${name}"`];
  });
  const where = kind.where ?? 'learner_id IN (SELECT value FROM json_each(:ids))';
  const order = kind.order === undefined ? '' : ` ORDER BY ${kind.order}`;
  const rows = raw.prepare(`SELECT ${read.join(', ')} FROM "${kind.table}" t WHERE ${where}${order}`);
  yield* rows.iterate({ ids: JSON.stringify(ids) }) as Iterable<RecordRow>;
}
