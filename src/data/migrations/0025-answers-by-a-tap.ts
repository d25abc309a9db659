import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  // Answers that a message offers as links, by their names with commas between.
  await db.raw("ALTER TABLE template ADD COLUMN answers TEXT NOT NULL DEFAULT ''");
  // The links of a message that went: good for 14 days, and for one answer. The address itself is not stored.
  await db.raw(`CREATE TABLE answer_link (
     id INTEGER PRIMARY KEY, token_hash TEXT NOT NULL UNIQUE, message_id INTEGER NOT NULL UNIQUE REFERENCES message ON DELETE CASCADE,
     answers TEXT NOT NULL, until INTEGER NOT NULL, used_at INTEGER, chosen TEXT)`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw('DROP TABLE answer_link');
  await db.raw('ALTER TABLE template DROP COLUMN answers');
}
