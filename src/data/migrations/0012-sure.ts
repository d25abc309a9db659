import type { Knex } from 'knex';

const CHANGES = [
  // What courses tell of: days on which anything of a kind of evidence was told of anybody.
  `CREATE TABLE course_evidence (
     course_id INTEGER NOT NULL REFERENCES course (id),
     kind TEXT NOT NULL,
     day INTEGER NOT NULL,
     PRIMARY KEY (course_id, kind, day)
   ) WITHOUT ROWID`,
  `INSERT OR IGNORE INTO course_evidence (course_id, kind, day)
     SELECT DISTINCT course_id, 'opens', day FROM learner_day WHERE events > 0`,
  `INSERT OR IGNORE INTO course_evidence (course_id, kind, day)
     SELECT DISTINCT course_id, 'worked', day FROM learner_day WHERE worked + talked > 0`,
  `INSERT OR IGNORE INTO course_evidence (course_id, kind, day)
     SELECT DISTINCT course_id, 'talked', day FROM learner_day WHERE talked > 0`,
  // Silences of a source that were noted by themselves, and end so.
  `ALTER TABLE feed_gap ADD COLUMN by_itself INTEGER NOT NULL DEFAULT 0`,
  // The plan by the evidence that it takes. Derived, as is the evidence of work: all of it is worked out anew at start.
  `ALTER TABLE standing ADD COLUMN tracks TEXT NOT NULL DEFAULT '[]'`,
  `INSERT INTO standing_stale (enrolment_id, mark) SELECT id, random() & 1073741823 FROM enrolment WHERE true
     ON CONFLICT DO UPDATE SET mark = excluded.mark`,
  `INSERT INTO drift_stale (enrolment_id, from_day, recent, mark) SELECT id, -1, 1, random() & 1073741823 FROM enrolment WHERE true
     ON CONFLICT DO UPDATE SET from_day = -1, recent = 1, mark = excluded.mark`,
];

export async function up(db: Knex): Promise<void> {
  for (const sql of CHANGES) await db.raw(sql);
}

/** Migrations only go forward; a backup is the way back. */
export async function down(): Promise<void> {
  throw new Error('Migrations of Lee Shore only go forward. Restore a backup instead.');
}
