import type { Knex } from 'knex';

/** Readings keep the numbers of their sentences: all are read anew, in idle time; until then the old words stand. */
export async function up(db: Knex): Promise<void> {
  await db.raw(`INSERT INTO drift_stale (enrolment_id, from_day, mark, recent) SELECT id, -1, 0, 1 FROM enrolment WHERE true
    ON CONFLICT DO UPDATE SET from_day = -1, recent = 1`);
}

/** Migrations only go forward; a backup is the way back. */
export async function down(): Promise<void> {
  throw new Error('Migrations of Lee Shore only go forward. Restore a backup instead.');
}
