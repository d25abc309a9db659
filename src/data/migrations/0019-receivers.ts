import type { Knex } from 'knex';

const ATTEMPTS = (messages: string) =>
  `CREATE VIEW contact_attempt AS
     SELECT learner_id, created_at AS at FROM message WHERE state NOT IN ('failed', 'bounced')${messages}
     UNION ALL SELECT learner_id, at FROM call`;

const ONCE_EACH = ', UNIQUE (draft_id, learner_id)';

/**
 * A rule of a table that has an index of its own cannot be changed where it stands: the table is made anew with its rows, its
 * other indexes, and whatever points to them.
 */
async function remakeMessages(db: Knex, change: (sql: string) => string): Promise<void> {
  const indexes: string[] = await db('sqlite_master')
    .where({ type: 'index', tbl_name: 'message' })
    .whereNotNull('sql')
    .pluck('sql');
  const { sql } = await db('sqlite_master').where({ type: 'table', name: 'message' }).first('sql');
  await db.raw('CREATE TEMP TABLE answered AS SELECT id, message_id FROM reply WHERE message_id IS NOT NULL');
  await db.raw('UPDATE reply SET message_id = NULL WHERE message_id IS NOT NULL');
  await db.raw(change(sql).replace(/^CREATE TABLE "?message"?/, 'CREATE TABLE message_anew'));
  await db.raw('INSERT INTO message_anew SELECT * FROM message');
  await db.raw('DROP TABLE message');
  await db.raw('ALTER TABLE message_anew RENAME TO message');
  for (const index of indexes) await db.raw(index);
  await db.raw('UPDATE reply SET message_id = a.message_id FROM temp.answered a WHERE a.id = reply.id');
  await db.raw('DROP TABLE temp.answered');
}

export async function up(db: Knex): Promise<void> {
  // A message about a learner may go to somebody beside them: who receives it, in which words, and who is left out.
  await db.raw("ALTER TABLE draft ADD COLUMN receivers TEXT NOT NULL DEFAULT 'learner'");
  await db.raw("ALTER TABLE draft ADD COLUMN other_subject TEXT NOT NULL DEFAULT ''");
  await db.raw("ALTER TABLE draft ADD COLUMN other_body TEXT NOT NULL DEFAULT ''");
  await db.raw("ALTER TABLE draft ADD COLUMN left_out TEXT NOT NULL DEFAULT '[]'");
  // What the writer says on the page that goes with it: to all, and to one.
  await db.raw("ALTER TABLE draft ADD COLUMN sentence TEXT NOT NULL DEFAULT ''");
  await db.raw('ALTER TABLE draft_recipient ADD COLUMN sentence TEXT');
  await db.raw("ALTER TABLE message ADD COLUMN receiver TEXT NOT NULL DEFAULT 'learner'");
  await db.raw("ALTER TABLE message ADD COLUMN receiver_name TEXT NOT NULL DEFAULT ''");
  await db.raw('ALTER TABLE message ADD COLUMN contact_id INTEGER REFERENCES learner_contact ON DELETE SET NULL');
  await db.raw('ALTER TABLE message ADD COLUMN coordinator_id INTEGER REFERENCES staff');
  await db.raw("ALTER TABLE message ADD COLUMN sentence TEXT NOT NULL DEFAULT ''");
  await db.raw('ALTER TABLE message ADD COLUMN as_link INTEGER NOT NULL DEFAULT 0');
  await db.raw('CREATE INDEX message_contact ON message (contact_id) WHERE contact_id IS NOT NULL');
  await db.raw('CREATE INDEX message_coordinator ON message (coordinator_id) WHERE coordinator_id IS NOT NULL');
  // Whoever was told about a learner is not the learner: they were not tried to reach by that.
  await db.raw('DROP VIEW contact_attempt');
  // Of one learner several may be written to at once.
  await remakeMessages(db, (sql) => sql.replace(ONCE_EACH, ''));
  await db.raw('CREATE INDEX message_draft ON message (draft_id, learner_id)');
  await db.raw(ATTEMPTS(" AND receiver = 'learner'"));
  // Nor is it the learner who answers what somebody beside them was told.
  await db.raw(`CREATE VIEW learner_answer AS
     SELECT r.id, r.learner_id, r.message_id, r.received_at FROM reply r LEFT JOIN message m ON m.id = r.message_id
     WHERE r.kind = 'answer' AND ifnull(m.receiver, 'learner') = 'learner'`);
  // A page that was too large for a mail: read at an address that only its receiver knows, as long as it is good.
  await db.raw(`CREATE TABLE page_link (
     id INTEGER PRIMARY KEY, token_hash TEXT NOT NULL UNIQUE, message_id INTEGER NOT NULL UNIQUE REFERENCES message ON DELETE CASCADE,
     file_name TEXT NOT NULL, created_at INTEGER NOT NULL, until INTEGER NOT NULL, opened INTEGER NOT NULL DEFAULT 0,
     last_opened_at INTEGER, revoked_at INTEGER, revoked_by INTEGER REFERENCES staff)`);
  await db.raw('CREATE INDEX page_link_until ON page_link (until)');
}

export async function down(db: Knex): Promise<void> {
  await db.raw('DROP TABLE page_link');
  await db.raw('DROP VIEW learner_answer');
  await db.raw('DROP VIEW contact_attempt');
  // What went to others would be read as written to the learner.
  await db.raw("DELETE FROM reply WHERE message_id IN (SELECT id FROM message WHERE receiver <> 'learner')");
  await db.raw("DELETE FROM message WHERE receiver <> 'learner'");
  await db.raw('DROP INDEX message_draft');
  await db.raw('DROP INDEX message_contact');
  await db.raw('DROP INDEX message_coordinator');
  for (const column of ['as_link', 'sentence', 'coordinator_id', 'contact_id', 'receiver_name', 'receiver'])
    await db.raw(`ALTER TABLE message DROP COLUMN ${column}`);
  await remakeMessages(db, (sql) => sql.replace(/\)\s*$/, `${ONCE_EACH})`));
  await db.raw(ATTEMPTS(''));
  await db.raw('ALTER TABLE draft_recipient DROP COLUMN sentence');
  for (const column of ['sentence', 'left_out', 'other_body', 'other_subject', 'receivers'])
    await db.raw(`ALTER TABLE draft DROP COLUMN ${column}`);
}
