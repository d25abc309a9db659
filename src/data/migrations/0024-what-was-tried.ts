import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  // What the next mentor should read first.
  await db.raw('ALTER TABLE note ADD COLUMN pinned_at INTEGER');
  // Since when a contact may receive reports, and in whose words that was said.
  await db.raw('ALTER TABLE learner_contact ADD COLUMN allowed_at INTEGER');
  await db.raw("ALTER TABLE learner_contact ADD COLUMN allowed_words TEXT NOT NULL DEFAULT ''");
}

export async function down(db: Knex): Promise<void> {
  await db.raw('ALTER TABLE note DROP COLUMN pinned_at');
  for (const column of ['allowed_at', 'allowed_words'])
    await db.raw(`ALTER TABLE learner_contact DROP COLUMN ${column}`);
}
