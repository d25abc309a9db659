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
}

export async function down(db: Knex): Promise<void> {
  await db.raw('DROP TABLE report_run');
  await db.raw('DROP TABLE report_share');
  await db.raw('DROP TABLE report');
}
