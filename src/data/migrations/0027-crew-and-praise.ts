import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  // Praise has templates of its own, and a message begun as praise knows what each of its readers did well.
  await db.raw('ALTER TABLE template ADD COLUMN is_praise INTEGER NOT NULL DEFAULT 0');
  await db.raw('ALTER TABLE draft ADD COLUMN is_praise INTEGER NOT NULL DEFAULT 0');
  // Who is set for a course, a group or a learner: asked of every learner's crew.
  for (const what of ['course', 'group', 'learner'])
    await db.raw(`CREATE INDEX staff_scope_${what} ON staff_scope (${what}_id) WHERE ${what}_id IS NOT NULL`);
}

export async function down(db: Knex): Promise<void> {
  for (const what of ['course', 'group', 'learner']) await db.raw(`DROP INDEX staff_scope_${what}`);
  await db.raw('ALTER TABLE draft DROP COLUMN is_praise');
  await db.raw('ALTER TABLE template DROP COLUMN is_praise');
}
