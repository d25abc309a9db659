import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  // Own caseloads over courses: by a rule (the filters of the list of learners, as JSON), by hand, or both.
  await db.raw(`CREATE TABLE caseload (
     id INTEGER PRIMARY KEY, name TEXT NOT NULL, owner_id INTEGER REFERENCES staff, rule TEXT,
     created_at INTEGER NOT NULL, changed_at INTEGER NOT NULL)`);
  await db.raw('CREATE INDEX caseload_owner ON caseload (owner_id)');
  // Whoever was put in or left out by hand, whatever the rule says.
  await db.raw(`CREATE TABLE caseload_learner (
     caseload_id INTEGER NOT NULL REFERENCES caseload ON DELETE CASCADE, learner_id INTEGER NOT NULL REFERENCES learner ON DELETE CASCADE,
     is_out INTEGER NOT NULL DEFAULT 0, PRIMARY KEY (caseload_id, learner_id), CHECK (is_out IN (0, 1))) WITHOUT ROWID`);
  await db.raw('CREATE INDEX caseload_learner_learner ON caseload_learner (learner_id)');
  await db.raw(`CREATE TABLE caseload_share (
     caseload_id INTEGER NOT NULL REFERENCES caseload ON DELETE CASCADE, staff_id INTEGER NOT NULL REFERENCES staff,
     PRIMARY KEY (caseload_id, staff_id)) WITHOUT ROWID`);
  await db.raw('CREATE INDEX caseload_share_staff ON caseload_share (staff_id)');
}

export async function down(db: Knex): Promise<void> {
  for (const table of ['caseload_share', 'caseload_learner', 'caseload']) await db.raw(`DROP TABLE ${table}`);
}
