import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  // A call to everybody around a learner, each of whom has to say that they have seen it.
  await db.raw(`CREATE TABLE flare (
     id INTEGER PRIMARY KEY, learner_id INTEGER NOT NULL REFERENCES learner, staff_id INTEGER REFERENCES staff,
     at INTEGER NOT NULL, reason TEXT NOT NULL, asked_at INTEGER NOT NULL, ended_at INTEGER,
     ended_by INTEGER REFERENCES staff, outcome TEXT)`);
  await db.raw('CREATE INDEX flare_learner ON flare (learner_id, at)');
  await db.raw('CREATE INDEX flare_at ON flare (at)');
  await db.raw('CREATE INDEX flare_open ON flare (asked_at) WHERE ended_at IS NULL');
  await db.raw(`CREATE TABLE flare_call (
     flare_id INTEGER NOT NULL REFERENCES flare ON DELETE CASCADE, staff_id INTEGER NOT NULL REFERENCES staff,
     seen_at INTEGER, asked INTEGER NOT NULL DEFAULT 1, PRIMARY KEY (flare_id, staff_id)) WITHOUT ROWID`);
  await db.raw('CREATE INDEX flare_call_unseen ON flare_call (staff_id) WHERE seen_at IS NULL');
}

export async function down(db: Knex): Promise<void> {
  for (const table of ['flare_call', 'flare']) await db.raw(`DROP TABLE ${table}`);
}
