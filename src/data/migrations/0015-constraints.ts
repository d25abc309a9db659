import type { Knex } from 'knex';
import type { Database as RawConnection } from 'better-sqlite3';

type Reference = readonly [table: string, ...columns: string[]];

/** What is nothing without what it belongs to goes with it. */
const CASCADES: readonly Reference[] = [
  ['calendar_feed', 'staff_id'],
  ['check_in', 'session_id'],
  ['check_in_try', 'session_id'],
  ['course_break', 'course_id'],
  ['course_evidence', 'course_id'],
  ['course_option', 'course_id'],
  ['draft_recipient', 'draft_id', 'learner_id'],
  ['drift_reading', 'enrolment_id'],
  ['enrolment_progress', 'enrolment_id'],
  ['known_browser', 'staff_id'],
  ['learner_contact', 'learner_id'],
  ['merge_row', 'merge_id'],
  ['note_label', 'note_id', 'label_id'],
  ['presence', 'session_id', 'learner_id'],
  ['presence_row', 'session_id'],
  ['question', 'item_id'],
  ['response', 'question_id'],
  ['saved_check', 'staff_id'],
  ['saved_view', 'staff_id'],
  ['session_token', 'staff_id'],
  ['set_aside', 'learner_id'],
  ['source_course', 'source_id', 'course_id'],
  ['staff_scope', 'staff_id', 'organisation_id', 'course_id', 'group_id', 'learner_id'],
  ['staff_setting', 'staff_id'],
];

/** Where something came from is told as long as it is known. */
const SETS_NULL: readonly Reference[] = [
  ['draft', 'template_id'],
  ['enrolment', 'seen_run'],
  ['item', 'imported_by'],
  ['message', 'template_id'],
  ['session', 'imported_by'],
];

const isYesOrNo = (column: string) => `${column} IN (0, 1)`;
const isOneOf = (column: string, ...words: string[]) => `${column} IN (${words.map((word) => `'${word}'`).join(', ')})`;

/** What a row must be, by table. */
const CHECKS: readonly (readonly [table: string, ...conditions: string[]])[] = [
  ['action', isOneOf('kind', 'looked', 'worked', 'talked', 'other'), isYesOrNo('settled'), isYesOrNo('derive_anew')],
  ['attempt', 'number >= 1'],
  ['course', 'ends_day IS NULL OR starts_day IS NULL OR ends_day >= starts_day', 'pass_mark BETWEEN 0 AND 100'],
  ['draft', isYesOrNo('is_about')],
  ['drift_reading', 'score BETWEEN 0 AND 100', 'band BETWEEN 0 AND 2', isYesOrNo('has_come')],
  ['enrolment', isOneOf('status', 'active', 'withdrawn', 'completed', 'merged')],
  ['extension', isYesOrNo('excused')],
  [
    'item',
    isOneOf('kind', 'page', 'file', 'link', 'video', 'quiz', 'assignment', 'discussion', 'session'),
    isYesOrNo('required'),
    isYesOrNo('must'),
  ],
  ['mark', 'credit BETWEEN 0 AND 1', isYesOrNo('counts')],
  ['presence', 'ms >= 0', isYesOrNo('is_open')],
  ['session', 'ends_at > starts_at', isYesOrNo('cancelled'), isYesOrNo('by_hand')],
  ['session_token', isYesOrNo('names_hidden')],
  ['staff', isOneOf('role', 'lead', 'instructor', 'mentor', 'coordinator')],
  ['staff_scope', isOneOf('kind', 'all', 'organisation', 'course', 'group', 'learner')],
];

const referring = (column: string) =>
  new RegExp(`(\\b${column}"? INTEGER[^,()]*REFERENCES "?\\w+"?(?: \\("?id"?\\))?)`);

/** A table's declaration with what happens to a reference when its row goes. */
function withRule(sql: string, column: string, rule: string): string {
  const pattern = referring(column);
  if (!pattern.test(sql)) throw new Error(`No reference ${column} in ${sql}`);
  return sql.replace(pattern, `$1 ON DELETE ${rule}`);
}

/** Do all rows keep a condition? One that an old row breaks is left out, rather than the row lost. */
function holds(raw: RawConnection, table: string, condition: string): boolean {
  return raw.prepare(`SELECT 1 FROM "${table}" WHERE NOT (${condition}) LIMIT 1`).get() === undefined;
}

/**
 * Writes tables' declarations anew where they stand. A rule that says nothing of how rows are stored may be changed so, by
 * SQLite's own description of it ("Making Other Kinds Of Table Schema Changes"); copying a log of millions of rows to have
 * one is not worth it.
 */
function rewrite(raw: RawConnection, change: (table: string, sql: string) => string): void {
  const tables = raw.prepare(`SELECT name, sql FROM sqlite_master WHERE type = 'table'`).all() as {
    name: string;
    sql: string;
  }[];
  raw.unsafeMode(true);
  try {
    raw.pragma('writable_schema = ON');
    const update = raw.prepare(`UPDATE sqlite_master SET sql = ? WHERE type = 'table' AND name = ?`);
    for (const { name, sql } of tables) {
      const changed = change(name, sql);
      if (changed !== sql) update.run(changed, name);
    }
    // Other connections read the declarations again, and so does this one.
    raw.pragma(`schema_version = ${Number(raw.pragma('schema_version', { simple: true })) + 1}`);
    raw.pragma('writable_schema = RESET');
  } finally {
    raw.unsafeMode(false);
  }
}

/** Work on the connection of the migration itself. */
async function onConnection(db: Knex, work: (raw: RawConnection) => void): Promise<void> {
  const raw = (await db.client.acquireConnection()) as RawConnection;
  try {
    work(raw);
  } finally {
    await db.client.releaseConnection(raw);
  }
}

const ENDING = /\)(\s*WITHOUT ROWID)?\s*$/;

export async function up(db: Knex): Promise<void> {
  await onConnection(db, (raw) => {
    // Shares of 100 that are all whole may add up to a hair more of it.
    raw.exec('UPDATE drift_reading SET score = 100 WHERE score > 100 AND score < 100.001');
    const checks = new Map(
      CHECKS.map(([table, ...conditions]) => [table, conditions.filter((condition) => holds(raw, table, condition))]),
    );
    rewrite(raw, (table, sql) => {
      const rules = [
        ...CASCADES.map((cascade) => [cascade, 'CASCADE'] as const),
        ...SETS_NULL.map((one) => [one, 'SET NULL'] as const),
      ].filter(([[name]]) => name === table);
      const ruled = rules.reduce(
        (known, [[, ...columns], rule]) => columns.reduce((text, column) => withRule(text, column, rule), known),
        sql,
      );
      const added = (checks.get(table) ?? []).map((condition) => `, CHECK (${condition})`).join('');
      return added === '' ? ruled : ruled.replace(ENDING, (_, rest = '') => `${added})${rest}`);
    });
  });
}

export async function down(db: Knex): Promise<void> {
  await onConnection(db, (raw) =>
    rewrite(raw, (table, sql) => {
      const conditions = CHECKS.filter(([name]) => name === table).flatMap(([, ...all]) => all);
      const unchecked = conditions.reduce((text, condition) => text.replace(`, CHECK (${condition})`, ''), sql);
      return unchecked.replaceAll(/ ON DELETE (CASCADE|SET NULL)/g, '');
    }),
  );
}
