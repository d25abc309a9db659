import type { Knex } from 'knex';

/** Tables whose rows may be made before an outline or a roster tells of them. */
const PROVISIONAL = ['learner', 'enrolment', 'course', 'item'] as const;

export async function up(db: Knex): Promise<void> {
  // The import that made it, where no outline or roster has told of it yet.
  for (const table of PROVISIONAL) {
    await db.raw(`ALTER TABLE ${table} ADD COLUMN provisional INTEGER REFERENCES import_run (id) ON DELETE SET NULL`);
    await db.raw(`CREATE INDEX ${table}_provisional ON ${table} (provisional) WHERE provisional IS NOT NULL`);
  }
  await db.raw('ALTER TABLE learner_contact ADD COLUMN may_receive INTEGER NOT NULL DEFAULT 0');
  // How a file of another system is read, what it made, and how many of its rows wait for a name.
  await db.raw('ALTER TABLE import_run ADD COLUMN plan TEXT');
  await db.raw("ALTER TABLE import_run ADD COLUMN made TEXT NOT NULL DEFAULT '{}'");
  await db.raw('ALTER TABLE import_run ADD COLUMN waiting INTEGER NOT NULL DEFAULT 0');
  await db.raw(`CREATE TABLE waiting_row (
     id INTEGER PRIMARY KEY, run_id INTEGER NOT NULL REFERENCES import_run ON DELETE CASCADE,
     course_id INTEGER NOT NULL REFERENCES course ON DELETE CASCADE, line INTEGER NOT NULL,
     person TEXT NOT NULL, folded TEXT NOT NULL, cells TEXT NOT NULL, UNIQUE (run_id, line))`);
  await db.raw('CREATE INDEX waiting_row_name ON waiting_row (course_id, folded)');
  await db.raw(`CREATE TABLE import_plan (
     source TEXT NOT NULL, shape TEXT NOT NULL, spec TEXT NOT NULL, used_at INTEGER NOT NULL,
     PRIMARY KEY (source, shape)) WITHOUT ROWID`);
  // What was made and then dropped, so that it can be brought back: what it was before, as JSON.
  await db.raw(`CREATE TABLE dropped (
     id INTEGER PRIMARY KEY, kind TEXT NOT NULL, record_id INTEGER NOT NULL, name TEXT NOT NULL, at INTEGER NOT NULL,
     staff_id INTEGER REFERENCES staff, before TEXT NOT NULL, UNIQUE (kind, record_id),
     CHECK (kind IN ('learner', 'item')))`);
  // What a platform said of somebody at an instant; the access that it stands for, as long as no log has told of it.
  await db.raw(`CREATE TABLE platform_snapshot (
     id INTEGER PRIMARY KEY, learner_id INTEGER NOT NULL REFERENCES learner, course_id INTEGER NOT NULL REFERENCES course ON DELETE CASCADE,
     made_at INTEGER NOT NULL, last_access INTEGER, exact_to INTEGER NOT NULL, progress REAL, minutes REAL,
     event_id INTEGER, UNIQUE (learner_id, course_id, made_at),
     CHECK (progress IS NULL OR progress BETWEEN 0 AND 100), CHECK (minutes IS NULL OR minutes >= 0))`);
  await db.raw('CREATE INDEX platform_snapshot_event ON platform_snapshot (learner_id) WHERE event_id IS NOT NULL');
}

export async function down(db: Knex): Promise<void> {
  await db.raw('DROP TABLE platform_snapshot');
  await db.raw('DROP TABLE dropped');
  await db.raw('DROP TABLE import_plan');
  await db.raw('DROP TABLE waiting_row');
  await db.raw('ALTER TABLE learner_contact DROP COLUMN may_receive');
  for (const column of ['plan', 'made', 'waiting']) await db.raw(`ALTER TABLE import_run DROP COLUMN ${column}`);
  for (const table of PROVISIONAL) {
    await db.raw(`DROP INDEX ${table}_provisional`);
    await db.raw(`ALTER TABLE ${table} DROP COLUMN provisional`);
  }
}
