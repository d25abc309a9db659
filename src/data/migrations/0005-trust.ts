import type { Knex } from 'knex';

const CHANGES = [
  // Which noting it is: what was derived from an older one is not stored.
  `ALTER TABLE touched ADD COLUMN mark INTEGER NOT NULL DEFAULT 0`,
  `ALTER TABLE drift_stale ADD COLUMN mark INTEGER NOT NULL DEFAULT 0`,
  // Do the last days wait to be read too, or only those before them?
  `ALTER TABLE drift_stale ADD COLUMN recent INTEGER NOT NULL DEFAULT 1`,
  // Only the name within the folder: a copy of the data has files of its own.
  `UPDATE import_run SET path = replace(path, rtrim(path, replace(path, '/', '')), '')`,
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
