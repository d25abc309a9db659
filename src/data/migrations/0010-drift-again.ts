import type { Knex } from 'knex';

const CHANGES = [
  // Counted days without access by a reading's day, and whether there ever was one: null of whoever has finished.
  `ALTER TABLE drift_reading ADD COLUMN gone INTEGER`,
  `ALTER TABLE drift_reading ADD COLUMN come INTEGER`,
  // The Watch reads these with the score, everybody of a day beside each other.
  `DROP INDEX drift_reading_day`,
  `CREATE INDEX drift_reading_day ON drift_reading (day, enrolment_id, score, band, gone, come)`,

  // What falls due as time goes by.
  `CREATE INDEX item_due ON item (due_at) WHERE due_at IS NOT NULL`,
  `CREATE INDEX extension_due ON extension (due_at) WHERE due_at IS NOT NULL`,

  // Is a message to many about how its readers are doing? Else it moves nobody on the Watch.
  `ALTER TABLE draft ADD COLUMN is_about INTEGER NOT NULL DEFAULT 0`,
  `CREATE INDEX message_draft_learner ON message (draft_id, learner_id)`,

  // Drift is made of other factors now: whoever knew the old readings is told once.
  `INSERT INTO setting (name, value) SELECT 'drift_changed', '2' WHERE EXISTS (SELECT 1 FROM drift_reading)`,
  `INSERT INTO drift_stale (enrolment_id, from_day, mark, recent) SELECT id, -1, 0, 1 FROM enrolment WHERE true
     ON CONFLICT DO UPDATE SET from_day = -1, recent = 1, mark = 0`,
];

export async function up(db: Knex): Promise<void> {
  for (const sql of CHANGES) await db.raw(sql);
}

/** Migrations only go forward; a backup is the way back. */
export async function down(): Promise<void> {
  throw new Error('Migrations of Lee Shore only go forward. Restore a backup instead.');
}
