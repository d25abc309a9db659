import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  // What a learner wishes: not by mail, not by text message, not at all. Noted by staff, or by themselves where nobody is named.
  await db.raw(`CREATE TABLE wish (
     learner_id INTEGER NOT NULL REFERENCES learner ON DELETE CASCADE, wish TEXT NOT NULL, at INTEGER NOT NULL,
     staff_id INTEGER REFERENCES staff, PRIMARY KEY (learner_id, wish), CHECK (wish IN ('email', 'sms', 'all'))) WITHOUT ROWID`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw('DROP TABLE wish');
}
