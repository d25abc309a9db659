import type { Knex } from 'knex';

const TABLES = [
  // What somebody set for themselves.
  `CREATE TABLE staff_setting (
     staff_id INTEGER NOT NULL REFERENCES staff, name TEXT NOT NULL, value TEXT NOT NULL,
     PRIMARY KEY (staff_id, name)) WITHOUT ROWID`,
  // Learners off one person's Watch until a day, or until they come back (until_day is null).
  `CREATE TABLE set_aside (
     id INTEGER PRIMARY KEY, staff_id INTEGER NOT NULL REFERENCES staff, learner_id INTEGER NOT NULL REFERENCES learner,
     reason TEXT NOT NULL, until_day INTEGER, created_at INTEGER NOT NULL, ended_at INTEGER)`,
  `CREATE UNIQUE INDEX set_aside_open ON set_aside (staff_id, learner_id) WHERE ended_at IS NULL`,
];

export async function up(db: Knex): Promise<void> {
  for (const sql of TABLES) await db.raw(sql);
}

/** Migrations only go forward; a backup is the way back. */
export async function down(): Promise<void> {
  throw new Error('Migrations of Lee Shore only go forward. Restore a backup instead.');
}
