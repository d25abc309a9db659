import type { Knex } from 'knex';

/** How far what follows from an import is worked out, once all of its rows are taken: enrolments, and of how many. */
const COLUMNS = ['derived', 'to_derive'];

export async function up(db: Knex): Promise<void> {
  for (const column of COLUMNS) await db.raw(`ALTER TABLE import_run ADD COLUMN ${column} INTEGER`);
}

export async function down(db: Knex): Promise<void> {
  for (const column of COLUMNS) await db.raw(`ALTER TABLE import_run DROP COLUMN ${column}`);
}
