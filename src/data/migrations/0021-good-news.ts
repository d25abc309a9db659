import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  // The units of which everything required is done, each with the instant of the last of it.
  await db.raw("ALTER TABLE enrolment_progress ADD COLUMN units_done TEXT NOT NULL DEFAULT '[]'");
  await db.raw(`INSERT INTO progress_stale (enrolment_id, revision) SELECT id, random() & 1073741823 FROM enrolment WHERE true
     ON CONFLICT DO UPDATE SET revision = excluded.revision`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw('ALTER TABLE enrolment_progress DROP COLUMN units_done');
}
