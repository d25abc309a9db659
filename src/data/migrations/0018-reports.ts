import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  // Reports that are kept under a name: what each is made of stands as JSON. One without an owner was made by a program.
  await db.raw(`CREATE TABLE report (
     id INTEGER PRIMARY KEY, name TEXT NOT NULL, definition TEXT NOT NULL, owner_id INTEGER REFERENCES staff,
     revision INTEGER NOT NULL DEFAULT 1, created_at INTEGER NOT NULL, changed_at INTEGER NOT NULL,
     changed_by INTEGER REFERENCES staff, last_run_at INTEGER)`);
  await db.raw('CREATE INDEX report_owner ON report (owner_id)');
  await db.raw(`CREATE TABLE report_share (
     report_id INTEGER NOT NULL REFERENCES report ON DELETE CASCADE, staff_id INTEGER NOT NULL REFERENCES staff,
     PRIMARY KEY (report_id, staff_id)) WITHOUT ROWID`);
  await db.raw('CREATE INDEX report_share_staff ON report_share (staff_id)');
  // Long ones, made beside the pages and kept for some days: the file lies in the data folder under its number.
  await db.raw(`CREATE TABLE report_run (
     id INTEGER PRIMARY KEY, report_id INTEGER REFERENCES report ON DELETE SET NULL, name TEXT NOT NULL,
     definition TEXT NOT NULL, format TEXT NOT NULL, layout TEXT NOT NULL, staff_id INTEGER REFERENCES staff,
     names_hidden INTEGER NOT NULL DEFAULT 0, state TEXT NOT NULL, done INTEGER NOT NULL DEFAULT 0, total INTEGER NOT NULL, error TEXT,
     owner TEXT, lease_until INTEGER NOT NULL DEFAULT 0, created_at INTEGER NOT NULL, ended_at INTEGER,
     CHECK (state IN ('waiting', 'running', 'done', 'failed', 'cancelled')),
     CHECK (format IN ('csv', 'xlsx', 'json', 'pdf')), CHECK (layout IN ('table', 'pages')))`);
  await db.raw('CREATE INDEX report_run_state ON report_run (state, created_at)');
  await db.raw('CREATE INDEX report_run_staff ON report_run (staff_id, created_at)');
  // What is sent by itself: a kept report, or the Monday letter, which is of no report.
  await db.raw(`CREATE TABLE report_schedule (
     id INTEGER PRIMARY KEY, report_id INTEGER REFERENCES report ON DELETE CASCADE, kind TEXT NOT NULL,
     staff_id INTEGER NOT NULL REFERENCES staff, rhythm TEXT NOT NULL, format TEXT NOT NULL, layout TEXT NOT NULL,
     next_at INTEGER NOT NULL, stopped_at INTEGER, stopped_why TEXT, created_at INTEGER NOT NULL,
     CHECK (kind IN ('report', 'monday_letter')), CHECK ((kind = 'report') = (report_id IS NOT NULL)))`);
  await db.raw('CREATE INDEX report_schedule_next ON report_schedule (next_at) WHERE stopped_at IS NULL');
  await db.raw('CREATE INDEX report_schedule_report ON report_schedule (report_id)');
  await db.raw("CREATE UNIQUE INDEX report_schedule_letter ON report_schedule (staff_id) WHERE kind = 'monday_letter'");
  await db.raw(`CREATE TABLE report_schedule_to (
     schedule_id INTEGER NOT NULL REFERENCES report_schedule ON DELETE CASCADE, staff_id INTEGER NOT NULL REFERENCES staff,
     PRIMARY KEY (schedule_id, staff_id)) WITHOUT ROWID`);
  // Every sending, for good: what it was called, to whom, when it was due and when it went, or why not.
  await db.raw(`CREATE TABLE report_sending (
     id INTEGER PRIMARY KEY, schedule_id INTEGER REFERENCES report_schedule ON DELETE SET NULL, name TEXT NOT NULL,
     by_id INTEGER NOT NULL REFERENCES staff, to_id INTEGER NOT NULL REFERENCES staff, due_at INTEGER NOT NULL,
     at INTEGER NOT NULL, state TEXT NOT NULL, subject TEXT NOT NULL, body TEXT NOT NULL,
     run_id INTEGER REFERENCES report_run ON DELETE SET NULL, tries INTEGER NOT NULL DEFAULT 0,
     next_try_at INTEGER NOT NULL DEFAULT 0, error TEXT, CHECK (state IN ('waiting', 'sent', 'failed')))`);
  await db.raw("CREATE INDEX report_sending_waiting ON report_sending (next_try_at) WHERE state = 'waiting'");
  await db.raw('CREATE INDEX report_sending_by ON report_sending (by_id, at)');
  // A message to learners may carry a report, each their own page of it: what it is made of, as JSON.
  await db.raw('ALTER TABLE draft ADD COLUMN report TEXT');
  await db.raw('CREATE INDEX report_sending_run ON report_sending (run_id) WHERE run_id IS NOT NULL');
}

export async function down(db: Knex): Promise<void> {
  await db.raw('ALTER TABLE draft DROP COLUMN report');
  for (const table of ['report_sending', 'report_schedule_to', 'report_schedule']) await db.raw(`DROP TABLE ${table}`);
  await db.raw('DROP TABLE report_run');
  await db.raw('DROP TABLE report_share');
  await db.raw('DROP TABLE report');
}
