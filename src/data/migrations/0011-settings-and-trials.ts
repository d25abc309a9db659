import type { Knex } from 'knex';

const CHANGES = [
  // A source's clock may run ahead: whoever was there a moment to come has not come back for that.
  `ALTER TABLE set_aside ADD COLUMN back_after INTEGER`,
  // What drift is read by from a day on: the programme's, or a course's own. Nothing is ever changed in it: the last one that
  // was kept holds, and without what is kept a course goes by the programme's again.
  `CREATE TABLE drift_setting (
     id INTEGER PRIMARY KEY,
     course_id INTEGER REFERENCES course (id),
     from_day INTEGER NOT NULL,
     at INTEGER NOT NULL,
     staff_id INTEGER REFERENCES staff (id),
     words TEXT NOT NULL,
     kept TEXT
   )`,
  // Sea trials and fits that somebody asked for, and what came of them.
  `CREATE TABLE trial_run (
     id INTEGER PRIMARY KEY,
     kind TEXT NOT NULL,
     asked TEXT NOT NULL,
     state TEXT NOT NULL,
     at INTEGER NOT NULL,
     staff_id INTEGER REFERENCES staff (id),
     ended_at INTEGER,
     done INTEGER NOT NULL DEFAULT 0,
     total INTEGER NOT NULL DEFAULT 0,
     owner TEXT,
     lease_until INTEGER NOT NULL DEFAULT 0,
     tries INTEGER NOT NULL DEFAULT 0,
     result TEXT,
     says TEXT
   )`,
  `CREATE INDEX trial_run_waiting ON trial_run (state) WHERE state IN ('waiting', 'running')`,
];

export async function up(db: Knex): Promise<void> {
  for (const sql of CHANGES) await db.raw(sql);
}

/** Migrations only go forward; a backup is the way back. */
export async function down(): Promise<void> {
  throw new Error('Migrations of Lee Shore only go forward. Restore a backup instead.');
}
