import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  // Praise has templates of its own, and a message begun as praise knows what each of its readers did well.
  await db.raw('ALTER TABLE template ADD COLUMN is_praise INTEGER NOT NULL DEFAULT 0');
  await db.raw('ALTER TABLE draft ADD COLUMN is_praise INTEGER NOT NULL DEFAULT 0');
}

export async function down(db: Knex): Promise<void> {
  await db.raw('ALTER TABLE draft DROP COLUMN is_praise');
  await db.raw('ALTER TABLE template DROP COLUMN is_praise');
}
