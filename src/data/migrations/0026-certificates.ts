import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  // Certificates as they were given: the name and the text stay what they were. What is checked in public is the number alone.
  await db.raw(`CREATE TABLE certificate (
     id INTEGER PRIMARY KEY, number TEXT NOT NULL UNIQUE, learner_id INTEGER NOT NULL REFERENCES learner,
     course_id INTEGER NOT NULL REFERENCES course, course_title TEXT NOT NULL, name TEXT NOT NULL, text TEXT NOT NULL,
     completed_day INTEGER, given_at INTEGER NOT NULL, staff_id INTEGER REFERENCES staff,
     revoked_at INTEGER, revoked_by INTEGER REFERENCES staff)`);
  await db.raw('CREATE INDEX certificate_learner ON certificate (learner_id, course_id)');
}

export async function down(db: Knex): Promise<void> {
  await db.raw('DROP TABLE certificate');
}
