import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  // Lists read everybody's readings of one day: as neighbours, without the sentences that stand beside each.
  await db.raw(`CREATE INDEX drift_reading_day ON drift_reading (day, enrolment_id, score, band)`);
}

/** Migrations only go forward; a backup is the way back. */
export async function down(): Promise<void> {
  throw new Error('Migrations of Lee Shore only go forward. Restore a backup instead.');
}
