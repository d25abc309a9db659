import type { Knex } from 'knex';
import { daySql } from '../day-sql';

const CHANGES = [
  // One index for each way into the log; those that lead to many rows carry what a second filter asks for.
  `CREATE INDEX event_at ON event (at)`,
  `CREATE INDEX event_course ON event (course_id, at, id, action_id, learner_id)`,
  `CREATE INDEX event_item ON event (item_id, at, id, action_id, learner_id) WHERE item_id IS NOT NULL`,
  `CREATE INDEX event_action ON event (action_id, at)`,

  // Counts kept as events come and go, so that no screen counts a log.
  `CREATE TABLE course_day (
     course_id INTEGER NOT NULL, day INTEGER NOT NULL, action_id INTEGER NOT NULL, staff INTEGER NOT NULL,
     events INTEGER NOT NULL, PRIMARY KEY (course_id, day, action_id, staff)) WITHOUT ROWID`,
  `CREATE TABLE source_hour (
     source_id INTEGER NOT NULL, hour INTEGER NOT NULL, events INTEGER NOT NULL,
     PRIMARY KEY (source_id, hour)) WITHOUT ROWID`,

  // A gap is found by the log's rhythm or named by a person; only a confirmed one counts.
  `ALTER TABLE feed_gap ADD COLUMN state TEXT NOT NULL DEFAULT 'confirmed'`,
  `ALTER TABLE feed_gap ADD COLUMN reason TEXT NOT NULL DEFAULT ''`,
  // Events that would usually have come in it, and those that had come when it was noted.
  `ALTER TABLE feed_gap ADD COLUMN expected REAL`,
  `ALTER TABLE feed_gap ADD COLUMN came INTEGER NOT NULL DEFAULT 0`,
  `ALTER TABLE feed_gap ADD COLUMN staff_id INTEGER REFERENCES staff`,
  `ALTER TABLE feed_gap ADD COLUMN changed_at INTEGER`,

  // How far ahead of ours a source's clock was last seen, in ms.
  `ALTER TABLE source ADD COLUMN ahead_ms INTEGER NOT NULL DEFAULT 0`,
  `ALTER TABLE source ADD COLUMN ahead_at INTEGER`,
  `ALTER TABLE source ADD COLUMN live_at INTEGER`,
  `CREATE TABLE source_credential (
     id INTEGER PRIMARY KEY, source_id INTEGER NOT NULL REFERENCES source, key TEXT NOT NULL UNIQUE,
     secret_hash TEXT NOT NULL, created_at INTEGER NOT NULL, ended_at INTEGER, staff_id INTEGER REFERENCES staff)`,

  `CREATE INDEX source_credential_secret ON source_credential (secret_hash)`,

  // Statements as they came. The events made of them are the log's; those of nobody we know wait.
  `CREATE TABLE statement (
     id INTEGER PRIMARY KEY, uuid TEXT NOT NULL, source_id INTEGER NOT NULL REFERENCES source,
     stored INTEGER NOT NULL, at INTEGER NOT NULL, state TEXT NOT NULL, waits_for TEXT, event_id INTEGER,
     body TEXT NOT NULL, UNIQUE (source_id, uuid))`,
  // A source's own in the order of storing, and the place of an instant in that order.
  `CREATE INDEX statement_source ON statement (source_id)`,
  `CREATE INDEX statement_stored ON statement (source_id, stored)`,
  `CREATE INDEX statement_waiting ON statement (id) WHERE state = 'waiting'`,
  // What a statement is found by: people, activities, verbs and registrations, each a key of its source.
  `CREATE TABLE statement_key (
     id INTEGER PRIMARY KEY, source_id INTEGER NOT NULL REFERENCES source, key TEXT NOT NULL,
     UNIQUE (source_id, key))`,
  // One that is about another statement is found by what that one says too; via is whoever says it.
  `CREATE TABLE statement_link (
     what TEXT NOT NULL, key_id INTEGER NOT NULL REFERENCES statement_key,
     statement_id INTEGER NOT NULL REFERENCES statement, via INTEGER NOT NULL REFERENCES statement,
     PRIMARY KEY (what, key_id, statement_id, via)) WITHOUT ROWID`,

  // Has / has not, asked again each day.
  `CREATE TABLE saved_check (
     id INTEGER PRIMARY KEY, staff_id INTEGER NOT NULL REFERENCES staff, name TEXT NOT NULL, query TEXT NOT NULL,
     limit_count INTEGER NOT NULL, created_at INTEGER NOT NULL, last_day INTEGER, last_count INTEGER, last_of INTEGER,
     passed_at INTEGER, seen_at INTEGER, fault TEXT, UNIQUE (staff_id, name))`,
];

export async function up(db: Knex): Promise<void> {
  for (const sql of CHANGES) await db.raw(sql);
  const zone = await db('setting').where('name', 'timezone').first('value');
  const [span] = await db.from('event').select(db.raw('min(at) AS first'), db.raw('max(at) AS last'));
  if (!zone || span.first === null) return;
  const day = daySql('at', zone.value, span.first, span.last + 1);
  await db.raw(
    `INSERT INTO course_day SELECT course_id, ${day}, action_id, learner_id IS NULL, count(*) FROM event GROUP BY 1, 2, 3, 4`,
  );
  await db.raw(`INSERT INTO source_hour SELECT source_id, at / 3600000, count(*) FROM event GROUP BY 1, 2`);
}

/** Migrations only go forward; a backup is the way back. */
export async function down(): Promise<void> {
  throw new Error('Migrations of Lee Shore only go forward. Restore a backup instead.');
}
