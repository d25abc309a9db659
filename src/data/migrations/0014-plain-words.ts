import type { Knex } from 'knex';

/** Tables under the words that everybody knows: what they were called, and what they are. */
const TABLES: readonly (readonly [was: string, is: string])[] = [
  // What was told of videos makes room for the progress in a course.
  ['progress', 'watched'],
  ['standing', 'enrolment_progress'],
  ['standing_stale', 'progress_stale'],
  ['completion_mark', 'completion_override'],
  ['visit_part', 'visit_course'],
];

/** Columns, by the table as it is called now. */
const COLUMNS: readonly (readonly [table: string, was: string, is: string])[] = [
  ['draft', 'look_again_day', 'follow_up_day'],
  ['session_token', 'covered', 'names_hidden'],
  ['drift_reading', 'gone', 'days_away'],
  ['drift_reading', 'come', 'has_come'],
  ['drift_setting', 'kept', 'setting'],
  ['touched', 'mark', 'revision'],
  ['progress_stale', 'mark', 'revision'],
  ['drift_stale', 'mark', 'revision'],
  ['import_run', 'taker_state', 'importer_state'],
  ['item', 'told_by', 'imported_by'],
  ['session', 'told_by', 'imported_by'],
];

/** Values of a column that were words of ours. */
const VALUES: readonly (readonly [table: string, column: string, was: string, is: string])[] = [
  ['setting', 'name', 'cover_key', 'stand_in_key'],
  ['staff_setting', 'name', 'reach', 'capacity'],
  ['call', 'outcome', 'reached', 'spoke'],
  ['call', 'outcome', 'left_word', 'left_message'],
  ['merge_row', 'table_name', 'progress', 'watched'],
  ['merge_row', 'table_name', 'completion_mark', 'completion_override'],
];

/** Where such addresses are kept: lists of learners, and rules of a trial that go by one. */
const KEPT_ADDRESSES = [
  ['saved_view', 'query'],
  ['trial_run', 'asked'],
] as const;

/** Names in the addresses that views are kept by: parameters, and what a list is sorted by. */
const ADDRESSES: readonly (readonly [was: string, is: string])[] = [
  ['owes=', 'overdue='],
  ['sort=owed', 'sort=overdue'],
  ['sort=-owed', 'sort=-overdue'],
];

/** Renames a key of the objects that a column holds as JSON, wherever it stands in the text. */
const renameKey = (table: string, column: string, was: string, is: string) =>
  `UPDATE "${table}" SET ${column} = replace(${column}, '"${was}":', '"${is}":') WHERE ${column} LIKE '%"${was}":%'`;

/** The columns that hold such objects. A rule of the Watch, and what a trial has found. */
const KEYS: readonly (readonly [table: string, column: string, was: string, is: string])[] = [
  ['drift_setting', 'setting', 'waiting', 'contacted'],
  ['trial_run', 'result', 'reach_beside_quiet', 'recall_beside_quiet'],
  ['trial_run', 'result', 'reachesLess', 'findsFewer'],
  ['trial_run', 'result', 'reach', 'recall'],
];

/** Indexes that another one begins with. */
const REDUNDANT: readonly (readonly [name: string, of: string])[] = [
  ['message_draft_learner', 'message (draft_id, learner_id)'],
];

/** An answer that has been read says so; those from before all have. And what a week is asked by. */
const UNREAD = [
  'ALTER TABLE reply ADD COLUMN read_at INTEGER',
  'UPDATE reply SET read_at = received_at',
  `CREATE INDEX reply_unread ON reply (message_id) WHERE read_at IS NULL AND kind = 'answer'`,
  // What somebody promised in a week.
  'CREATE INDEX follow_up_made ON follow_up (made_by, created_at)',
];

const name = (text: string) => `"${text}"`;

async function rename(db: Knex, isBack: boolean): Promise<void> {
  const turn = <T extends readonly string[]>(row: T): [string, string] => {
    const [was, is] = row.slice(-2);
    return isBack ? [is, was] : [was, is];
  };
  const inOrder = <T>(rows: readonly T[]) => (isBack ? [...rows].reverse() : rows);
  const tables = async () => {
    for (const row of inOrder(TABLES)) {
      const [from, to] = turn(row);
      await db.raw(`ALTER TABLE ${name(from)} RENAME TO ${name(to)}`);
    }
  };
  const columns = async () => {
    for (const row of inOrder(COLUMNS)) {
      const [from, to] = turn(row);
      await db.raw(`ALTER TABLE ${name(row[0])} RENAME COLUMN ${name(from)} TO ${name(to)}`);
    }
  };
  const contents = async () => {
    for (const row of inOrder(VALUES)) await db(row[0]).where(row[1], turn(row)[0]).update(row[1], turn(row)[1]);
    for (const row of inOrder(KEYS)) await db.raw(renameKey(row[0], row[1], ...turn(row)));
    for (const row of inOrder(ADDRESSES))
      for (const [table, column] of KEPT_ADDRESSES)
        await db.raw(`UPDATE ${table} SET ${column} = replace(${column}, :was, :is) WHERE instr(${column}, :was)`, {
          was: turn(row)[0],
          is: turn(row)[1],
        });
    const [from, to] = turn(['owed', 'overdue']);
    await db.raw(
      `UPDATE staff_setting SET value = trim(replace(',' || value || ',', ?, ?), ',') WHERE name = 'learner_columns'`,
      [`,${from},`, `,${to},`],
    );
  };
  for (const step of isBack ? [contents, columns, tables] : [tables, columns, contents]) await step();
}

export async function up(db: Knex): Promise<void> {
  await rename(db, false);
  for (const statement of UNREAD) await db.raw(statement);
  for (const [index] of REDUNDANT) await db.raw(`DROP INDEX ${index}`);
}

export async function down(db: Knex): Promise<void> {
  for (const [index, of] of REDUNDANT) await db.raw(`CREATE INDEX ${index} ON ${of}`);
  for (const index of ['follow_up_made', 'reply_unread']) await db.raw(`DROP INDEX ${index}`);
  await db.raw('ALTER TABLE reply DROP COLUMN read_at');
  await rename(db, true);
}
