import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  // Who is to be erased, and was: while it can be taken back by whom and why, afterwards neither name nor reason.
  await db.raw(`CREATE TABLE erasure (
     id INTEGER PRIMARY KEY, learner_id INTEGER NOT NULL REFERENCES learner, asked_at INTEGER NOT NULL,
     staff_id INTEGER REFERENCES staff, reason TEXT NOT NULL, until INTEGER NOT NULL,
     taken_back_at INTEGER, taken_back_by INTEGER REFERENCES staff, emptied_at INTEGER, done_at INTEGER, mark TEXT)`);
  await db.raw('CREATE UNIQUE INDEX erasure_open ON erasure (learner_id) WHERE taken_back_at IS NULL');
  await db.raw('CREATE INDEX erasure_staff ON erasure (staff_id) WHERE staff_id IS NOT NULL');
  await db.raw('CREATE INDEX erasure_taken_back ON erasure (taken_back_by) WHERE taken_back_by IS NOT NULL');
  // What a post said must be gone from its index as well (SQLite 3.42 and later).
  await db.raw("INSERT INTO post_words (post_words, rank) VALUES ('secure-delete', 1)");
}

export async function down(db: Knex): Promise<void> {
  await db.raw("INSERT INTO post_words (post_words, rank) VALUES ('secure-delete', 0)");
  await db.raw('DROP TABLE erasure');
}
