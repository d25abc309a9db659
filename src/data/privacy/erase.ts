/**
 * Taking a person out of the database: what is theirs goes, what counts without them stays and points to "somebody erased".
 * What each table gives up is declared here; a test holds the list against the schema.
 */
import type { ErasedStatement } from '@/core/privacy/statement';
import { SOMEBODY_ERASED, openEraser, type Eraser, type PersonTerms } from '@/core/privacy/terms';
import { withRaw, type Db, type RawConnection } from '../db';

/** What becomes of a person's rows: they go, they stay as they are, or these columns are set to these values (SQL). */
type Treatment = 'delete' | 'stays' | Readonly<Record<string, string>>;

const NOTHING = "''";
const ENDS = 'ifnull(ended_at, :now)';

/** Of each table with a learner in it. */
export const TREATMENT: Readonly<Record<string, Treatment>> = {
  // Whoever was erased is in no course any more; one that was completed stays completed.
  enrolment: {
    ended_day: "CASE WHEN status = 'active' THEN max(:day, enrolled_day) ELSE ended_day END",
    status: "CASE WHEN status = 'active' THEN 'withdrawn' ELSE status END",
  },
  message: {
    address: NOTHING,
    subject: NOTHING,
    body: NOTHING,
    receiver_name: NOTHING,
    sentence: NOTHING,
    // What waits to go does not go; what went stays counted.
    state: "CASE WHEN state IN ('queued', 'sending') THEN 'failed' ELSE state END",
    error: 'NULL',
    message_id: "'erased-' || id",
    contact_id: 'NULL',
  },
  reply: { sender: NOTHING, subject: NOTHING, body: NOTHING, external_id: "'erased-' || id" },
  call: { remark: NOTHING },
  note: { body: NOTHING, ended_at: ENDS, pinned_at: 'NULL' },
  follow_up: {
    reason: NOTHING,
    closed_at: 'ifnull(closed_at, :now)',
    outcome: "CASE WHEN closed_at IS NULL THEN 'not_needed' ELSE outcome END",
  },
  flare: { reason: NOTHING, outcome: 'CASE WHEN outcome IS NULL THEN NULL ELSE ' + NOTHING + ' END', ended_at: ENDS },
  set_aside: { reason: NOTHING, ended_at: ENDS },
  learner_contact: 'delete',
  wish: 'delete',
  caseload_learner: 'delete',
  draft_recipient: 'delete',
  staff_scope: 'delete',
  presence_alias: 'delete',
  touched: 'stays',
  look: 'stays',
  // That such a number was given, for which course and when, can still be checked.
  certificate: { name: NOTHING, text: NOTHING },
  attempt: {
    feedback: 'NULL',
    grader: 'NULL',
    dismissed_why: 'CASE WHEN dismissed_at IS NULL THEN NULL ELSE ' + NOTHING + ' END',
  },
  grade_change: { why: NOTHING, grader: 'NULL' },
  response: { answer: NOTHING },
  survey_answer: {
    // What was chosen stays counted; what was written does not.
    answer: `CASE WHEN (SELECT kind FROM survey_question q WHERE q.id = question_id) = 'text' THEN '' ELSE answer END`,
    learner_id: 'NULL',
  },
  extension: { reason: NOTHING },
  completion_override: { reason: NOTHING },
  work_change: { reason: NOTHING },
  attendance: { remark: NOTHING },
  attendance_change: { remark: NOTHING, old_remark: NOTHING },
  check_in: { device: NOTHING, origin: NOTHING },
  presence_row: { person: `'${SOMEBODY_ERASED}'`, folded: `'erased ' || id`, email: 'NULL' },
  post: { text: NOTHING, external_id: 'NULL', reply_to: 'NULL' },
  audit: { subject: `'${SOMEBODY_ERASED}'`, changes: "'{}'" },
  erasure: { reason: NOTHING },
  presence: 'stays',
  platform_snapshot: 'stays',
  result_statement: { registration: 'NULL' },
  watched: 'stays',
  visit_course: 'stays',
  learner_day: 'stays',
  item_day: 'stays',
  learner_course: 'stays',
  // Many: emptied a part at a time, before everything else.
  event: 'stays',
};

/**
 * Tables whose texts are not searched for a person: they hold none, have been treated, or are somebody else's own (another
 * learner, a colleague of the same name).
 */
const NOT_SEARCHED =
  /^(sqlite_.*|schema_.*|post_words.*|learner|learner_contact|staff|staff_scope|event|statement_link|drift_reading|enrolment_progress|erasure|look|course.*|item|unit|organisation|question|action|source.*|mark|session_token|known_browser|sign_in_try|check_in_try|calendar_feed|page_link|answer_link|presence_row|presence_alias|certificate|packed_day|survey.*)$/;

/** Events, statements and rows that are gone through at once: nobody waits longer than one such part takes. */
const PART = 500;
const STATEMENTS = 2000;

/** The records that are one person: the one that was kept, and those that were merged into it. */
export async function recordsOf(db: Db, learnerId: number): Promise<number[]> {
  return db('learner').where('id', learnerId).orWhere('merged_into', learnerId).orderBy('id').pluck('id');
}

/** Numbers of the pages that went with somebody's messages. */
export async function pagesOf(db: Db, ids: readonly number[]): Promise<number[]> {
  return db('page_link')
    .join('message', 'message.id', 'page_link.message_id')
    .whereIn('message.learner_id', ids)
    .pluck('page_link.id');
}

/** Everything by which a person may be named in a text. A name that somebody else bears as well is none of it. */
export async function termsOf(db: Db, ids: readonly number[]): Promise<PersonTerms> {
  const people = await db('learner')
    .whereIn('id', ids)
    .select('external_id', 'given_name', 'family_name', 'email', 'phone');
  const contacts = await db('learner_contact').whereIn('learner_id', ids).select('name', 'email', 'phone');
  const names: { given: string; family: string }[] = [];
  for (const { given_name, family_name } of people) {
    const others = await db('learner')
      .whereNotIn('id', ids)
      .whereRaw('sort_key = fold_text(?)', [`${family_name} ${given_name}`])
      .first('id');
    const staff = await db('staff').where({ given_name, family_name }).first('id');
    if (!others && !staff) names.push({ given: given_name, family: family_name });
  }
  for (const { name } of contacts) {
    const [given, ...rest] = name.split(/\s+/);
    names.push({ given, family: rest.join(' ') });
  }
  // What somebody else is reached by as well is theirs too.
  const [staff, others, beside] = await Promise.all([
    db('staff').pluck('email'),
    db('learner').whereNotIn('id', ids).select('email', 'phone'),
    db('learner_contact').whereNotIn('learner_id', ids).select('email', 'phone'),
  ]);
  const shared = new Set(
    [...staff, ...[...others, ...beside].flatMap(({ email, phone }) => [email, phone])].map((one) =>
      one?.toLowerCase(),
    ),
  );
  const addresses = [...people, ...contacts]
    .flatMap(({ email, phone }) => [email, phone])
    .filter((one): one is string => one !== null && one !== '' && !shared.has(one.toLowerCase()));
  const own = people.map(({ external_id }) => external_id);
  const ambiguous = [
    ...(await db('course').whereIn('code', own).pluck('code')),
    ...(await db('item').whereIn('external_id', own).pluck('external_id')),
    ...(await db('session').whereIn('external_id', own).pluck('external_id')),
    ...(await db('staff').whereIn('external_id', own).pluck('external_id')),
  ];
  return { ids: own, names, addresses: [...new Set(addresses)], ambiguous };
}

/** Every table with columns of text that may name somebody, with these columns, and whether its rows have numbers. */
function searchedTables(raw: RawConnection): { table: string; columns: string[]; hasRows: boolean }[] {
  const rows = raw
    .prepare(
      `SELECT t.name AS "table", c.name AS "column", t.sql LIKE '%WITHOUT ROWID' AS bare
       FROM sqlite_master t JOIN pragma_table_info(t.name) c WHERE t.type = 'table' AND c.type = 'TEXT' ORDER BY t.name`,
    )
    .all() as { table: string; column: string; bare: number }[];
  const tables = new Map<string, { table: string; columns: string[]; hasRows: boolean }>();
  for (const { table, column, bare } of rows) {
    if (NOT_SEARCHED.test(table)) continue;
    const known = tables.get(table) ?? { table, columns: [], hasRows: bare === 0 };
    known.columns.push(column);
    tables.set(table, known);
  }
  return [...tables.values()];
}

/** Takes the addresses of the network from a part of somebody's events. Returns how many it was. */
export function emptyEvents(raw: RawConnection, ids: readonly number[]): number {
  return raw
    .prepare(
      `UPDATE event SET address = NULL, external_id = NULL WHERE id IN (
         SELECT id FROM event WHERE learner_id IN (SELECT value FROM json_each(?))
           AND (address IS NOT NULL OR external_id IS NOT NULL) LIMIT ${PART})`,
    )
    .run(JSON.stringify(ids)).changes;
}

/** Statements of one part after a number that name somebody, as they are to be, and the last number that was looked at. */
export function statementsNaming(
  raw: RawConnection,
  after: number,
  rewrite: (body: string) => ErasedStatement | null,
): { last: number | null; found: (ErasedStatement & { id: number })[] } {
  const rows = raw
    .prepare(`SELECT id, body FROM statement WHERE id > ? ORDER BY id LIMIT ${STATEMENTS}`)
    .raw()
    .all(after) as [number, string][];
  const found = rows.flatMap(([id, body]) => {
    const left = rewrite(body);
    return left === null ? [] : [{ id, ...left }];
  });
  return { last: rows.at(-1)?.[0] ?? null, found };
}

export function storeErasedStatements(raw: RawConnection, found: readonly (ErasedStatement & { id: number })[]): void {
  const update = raw.prepare(
    "UPDATE statement SET body = @body, waits_for = NULL, state = CASE state WHEN 'waiting' THEN 'voided' ELSE state END WHERE id = @id",
  );
  // They were found by whom they were of: by nobody from now on.
  const forget = raw.prepare("UPDATE statement_key SET key = 'erased-' || id WHERE key = ?");
  for (const { id, body, key } of found) {
    update.run({ id, body });
    if (key !== null) forget.run(key);
  }
}

/** Rows of others in which a text names somebody: their numbers, by table. */
export function rowsNaming(raw: RawConnection, eraser: Eraser): Map<string, number[]> {
  const found = new Map<string, number[]>();
  for (const { table, columns, hasRows } of searchedTables(raw)) {
    if (!hasRows || table === 'statement') continue;
    const names = columns.map((column) => `"${column}"`).join(', ');
    const ids: number[] = [];
    for (const row of raw.prepare(`SELECT rowid, ${names} FROM "${table}"`).raw().iterate() as Iterable<unknown[]>)
      if (row.some((value, index) => index > 0 && typeof value === 'string' && eraser.finds(value)))
        ids.push(row[0] as number);
    if (ids.length > 0) found.set(table, ids);
  }
  return found;
}

interface Emptying {
  ids: readonly number[];
  terms: PersonTerms;
  /** Rows of others that name them. */
  named: ReadonlyMap<string, readonly number[]>;
  now: number;
  /** Today, as a day number. */
  day: number;
  /** Ids that stand for their records from now on, in the order of `ids`. */
  aliases: readonly string[];
  /** The erasure that is carried out, and its mark. */
  erasure: number;
  mark: string;
}

/**
 * Takes a person out of everything but their events, in the caller's write transaction; nothing where another process has done so,
 * or the erasure was taken back meanwhile.
 */
export function emptyRecords(
  raw: RawConnection,
  { ids, terms, named, now, day, aliases, erasure, mark }: Emptying,
): void {
  const waits = raw.prepare('SELECT 1 FROM erasure WHERE id = ? AND emptied_at IS NULL AND taken_back_at IS NULL');
  if (waits.get(erasure) === undefined) return;
  const own = JSON.stringify(ids);
  const params = { ids: own, now, day };
  const eraser = openEraser(terms);
  const isOwn = 'IN (SELECT value FROM json_each(:ids))';
  const run = (sql: string) => {
    const used = Object.entries(params).filter(([name]) => new RegExp(`:${name}\\b`).test(sql));
    raw.prepare(sql).run(Object.fromEntries(used));
  };
  // A text that went to nobody else is theirs.
  run(`UPDATE draft SET subject = '', body = '', other_subject = '', other_body = '', sentence = '', report = NULL WHERE id IN (
    SELECT draft_id FROM draft_recipient GROUP BY draft_id HAVING min(learner_id ${isOwn}) = 1)`);
  run(`DELETE FROM answer_link WHERE message_id IN (SELECT id FROM message WHERE learner_id ${isOwn})`);
  run(`DELETE FROM page_link WHERE message_id IN (SELECT id FROM message WHERE learner_id ${isOwn})`);
  // Mails that told colleagues of a flare repeat its reason.
  run(`UPDATE report_sending SET subject = 'Flare', body = '' WHERE name = 'Flare' AND EXISTS (
    SELECT 1 FROM flare f WHERE f.learner_id ${isOwn} AND f.reason <> '' AND instr(report_sending.body, f.reason) > 0)`);
  // Their files are gone: what was made of people is made again where somebody asks for it.
  raw
    .prepare("UPDATE report_run SET state = 'failed', error = ? WHERE state = 'done'")
    .run('Somebody in it was erased since: make it again.');
  run(`DELETE FROM dropped WHERE kind = 'learner' AND record_id ${isOwn}`);
  run(
    `UPDATE merge SET record = '{"kept":{},"enrolments":[],"earlier":[]}' WHERE kept_id ${isOwn} OR gone_id ${isOwn}`,
  );
  for (const [table, treatment] of Object.entries(TREATMENT)) {
    if (treatment === 'stays') continue;
    if (treatment === 'delete') run(`DELETE FROM ${table} WHERE learner_id ${isOwn}`);
    else {
      const sets = Object.entries(treatment).map(([column, value]) => `${column} = ${value}`);
      run(`UPDATE ${table} SET ${sets.join(', ')} WHERE learner_id ${isOwn}`);
    }
  }
  const rename = raw.prepare(
    `UPDATE learner SET external_id = ?, given_name = '', family_name = '${SOMEBODY_ERASED}', email = NULL, phone = NULL,
       organisation_id = NULL, preferred_channel = NULL, timezone = NULL WHERE id = ?`,
  );
  ids.forEach((id, index) => rename.run(aliases[index], id));
  eraseNamed(raw, eraser, named);
  raw.prepare('UPDATE erasure SET emptied_at = ?, mark = ? WHERE id = ?').run(now, mark, erasure);
}

/** Takes somebody out of texts that are others'. */
function eraseNamed(raw: RawConnection, eraser: Eraser, named: ReadonlyMap<string, readonly number[]>): void {
  raw.function('erased', { deterministic: true }, (text) => (typeof text === 'string' ? eraser.erase(text) : text));
  raw.function('is_erased', { deterministic: true }, (text) => Number(typeof text === 'string' && eraser.finds(text)));
  for (const { table, columns, hasRows } of searchedTables(raw)) {
    if (table === 'statement') continue;
    const names = columns.map((column) => `"${column}"`);
    const sets = names.map((name) => `${name} = erased(${name})`).join(', ');
    if (!hasRows)
      raw
        .prepare(
          `UPDATE OR REPLACE "${table}" SET ${sets} WHERE ${names.map((name) => `is_erased(${name})`).join(' OR ')}`,
        )
        .run();
    else if (named.has(table))
      raw
        .prepare(`UPDATE OR REPLACE "${table}" SET ${sets} WHERE rowid IN (SELECT value FROM json_each(?))`)
        .run(JSON.stringify(named.get(table)));
  }
}

/** Pages that are overwritten in one go. */
const PAGES = 256;

/**
 * Overwrites what was freed, a part at a time, and empties the write-ahead log. What is deleted from now on is overwritten by
 * itself (`secure_delete`); pages that were freed earlier are filled and freed again.
 *
 * @returns whether anything is left to do: somebody else was writing or reading
 */
export async function overwriteFreePages(db: Db, breathe: () => Promise<void>): Promise<boolean> {
  const size = (await withRaw(db, (raw) => raw.pragma('page_size', { simple: true }))) as number;
  await withRaw(db, (raw) => raw.exec('CREATE TABLE IF NOT EXISTS overwritten (zeros BLOB NOT NULL)'));
  for (;;) {
    const left = await withRaw(db, (raw) => {
      const free = raw.pragma('freelist_count', { simple: true }) as number;
      // A blob of so many pages takes them all, and one or two for its own row.
      if (free > 8)
        raw.prepare('INSERT INTO overwritten VALUES (zeroblob(?))').run(Math.min(free - 4, PAGES) * (size - 8));
      return free;
    });
    await breathe();
    if (left <= 8) break;
  }
  for (;;) {
    const gone = await withRaw(db, (raw) => {
      raw.pragma('secure_delete = ON');
      try {
        return raw.prepare('DELETE FROM overwritten WHERE rowid IN (SELECT rowid FROM overwritten LIMIT 4)').run()
          .changes;
      } finally {
        raw.pragma('secure_delete = FAST');
      }
    });
    await breathe();
    if (gone === 0) break;
  }
  await withRaw(db, (raw) => raw.exec('DROP TABLE overwritten'));
  return withRaw(db, (raw) => {
    const [{ busy }] = raw.pragma('wal_checkpoint(TRUNCATE)') as [{ busy: number }];
    return busy !== 0;
  });
}

/** Writes the whole database anew, so that no page holds anything but what is in it. Nobody writes meanwhile. */
export async function writeAnew(db: Db): Promise<void> {
  await withRaw(db, (raw) => raw.exec('VACUUM'));
}
