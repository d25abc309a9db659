import type { Knex } from 'knex';

const CHANGES = [
  // Which noting it is: what was derived from an older one is not stored.
  `ALTER TABLE touched ADD COLUMN mark INTEGER NOT NULL DEFAULT 0`,
  `ALTER TABLE drift_stale ADD COLUMN mark INTEGER NOT NULL DEFAULT 0`,
  // Do the last days wait to be read too, or only those before them?
  `ALTER TABLE drift_stale ADD COLUMN recent INTEGER NOT NULL DEFAULT 1`,
  // Only the name within the folder: a copy of the data has files of its own.
  `UPDATE import_run SET path = replace(path, rtrim(path, replace(path, '/', '')), '')`,

  // What was done with each item by everybody on a day of a course, packed; see core/reach/packed-days.
  `CREATE TABLE packed_day (
     id INTEGER PRIMARY KEY, course_id INTEGER NOT NULL, day INTEGER NOT NULL, starts_at INTEGER NOT NULL,
     entries BLOB NOT NULL, UNIQUE (course_id, day))`,
  `INSERT INTO touched (learner_id, from_at, to_at)
     SELECT learner_id, min(at), max(at) FROM event WHERE learner_id IS NOT NULL GROUP BY learner_id
     ON CONFLICT DO UPDATE SET from_at = min(from_at, excluded.from_at), to_at = max(to_at, excluded.to_at)`,

  // A view that was taken away can be put back.
  `ALTER TABLE saved_view ADD COLUMN ended_at INTEGER`,

  // Tries to sign in, counted before they are checked; those of long ago go.
  `DROP TABLE sign_in_delay`,
  `CREATE TABLE sign_in_try (
     key TEXT PRIMARY KEY, failures INTEGER NOT NULL, until INTEGER NOT NULL, at INTEGER NOT NULL) WITHOUT ROWID`,
  `CREATE INDEX sign_in_try_at ON sign_in_try (at)`,
  // Browsers in which somebody has signed in before: others' wrong tries do not keep them out.
  `CREATE TABLE known_browser (
     token_hash TEXT NOT NULL, staff_id INTEGER NOT NULL REFERENCES staff, at INTEGER NOT NULL,
     PRIMARY KEY (token_hash, staff_id)) WITHOUT ROWID`,
  // What people see of their own sign-ins, and end them by.
  `ALTER TABLE session_token ADD COLUMN handle TEXT`,
  `ALTER TABLE session_token ADD COLUMN agent TEXT NOT NULL DEFAULT ''`,
  `ALTER TABLE session_token ADD COLUMN seen_at INTEGER`,
  `UPDATE session_token SET handle = lower(hex(randomblob(12))), seen_at = created_at`,
  `CREATE INDEX session_token_staff ON session_token (staff_id)`,
];

export async function up(db: Knex): Promise<void> {
  for (const sql of CHANGES) await db.raw(sql);
  // Everything that was read before is read anew, in idle time.
  await db.raw(`INSERT INTO drift_stale (enrolment_id, from_day) SELECT id, -1 FROM enrolment WHERE true
    ON CONFLICT DO UPDATE SET from_day = -1`);
}

/** Migrations only go forward; a backup is the way back. */
export async function down(): Promise<void> {
  throw new Error('Migrations of Lee Shore only go forward. Restore a backup instead.');
}
