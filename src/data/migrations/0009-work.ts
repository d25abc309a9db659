import type { Knex } from 'knex';

const CHANGES = [
  `ALTER TABLE course ADD COLUMN pass_mark REAL`,
  `ALTER TABLE item ADD COLUMN url TEXT`,
  `ALTER TABLE item ADD COLUMN must INTEGER NOT NULL DEFAULT 0`,
  `ALTER TABLE item ADD COLUMN stage TEXT`,
  `ALTER TABLE item ADD COLUMN policy TEXT NOT NULL DEFAULT 'best'`,
  // Columns that were set here, as a list of names: an outline that comes later leaves them.
  `ALTER TABLE item ADD COLUMN by_hand TEXT NOT NULL DEFAULT '[]'`,
  `ALTER TABLE item ADD COLUMN removed_at INTEGER`,
  `ALTER TABLE import_run ADD COLUMN notes TEXT NOT NULL DEFAULT '[]'`,

  // What a course has of its own: score bands, a scale, what its learners are shown, attendance as a category.
  `CREATE TABLE course_option (
     course_id INTEGER NOT NULL REFERENCES course, name TEXT NOT NULL, value TEXT NOT NULL,
     PRIMARY KEY (course_id, name)) WITHOUT ROWID`,

  `CREATE TABLE attempt (
     id INTEGER PRIMARY KEY, learner_id INTEGER NOT NULL REFERENCES learner, item_id INTEGER NOT NULL REFERENCES item,
     number INTEGER NOT NULL, started_at INTEGER, submitted_at INTEGER, score REAL, points REAL, graded_at INTEGER,
     grader TEXT, feedback TEXT, source TEXT NOT NULL, staff_id INTEGER REFERENCES staff,
     dismissed_at INTEGER, dismissed_by INTEGER REFERENCES staff, dismissed_why TEXT,
     other_score REAL, other_points REAL,
     UNIQUE (learner_id, item_id, number))`,
  `CREATE INDEX attempt_item ON attempt (item_id, learner_id)`,
  // Handed in with neither grade nor feedback.
  `CREATE INDEX attempt_waits ON attempt (item_id, submitted_at)
     WHERE submitted_at IS NOT NULL AND score IS NULL AND feedback IS NULL AND dismissed_at IS NULL`,
  `CREATE INDEX attempt_graded ON attempt (graded_at) WHERE graded_at IS NOT NULL`,
  // A score set by hand and another from a file: listed until somebody settles it.
  `CREATE INDEX attempt_differs ON attempt (item_id) WHERE other_score IS NOT NULL`,

  // A first grade stands in its attempt; every change after it here.
  `CREATE TABLE grade_change (
     id INTEGER PRIMARY KEY, learner_id INTEGER NOT NULL REFERENCES learner, item_id INTEGER NOT NULL REFERENCES item,
     number INTEGER NOT NULL, at INTEGER NOT NULL, old_score REAL, score REAL, old_points REAL, points REAL,
     staff_id INTEGER REFERENCES staff, grader TEXT, why TEXT NOT NULL DEFAULT '', source TEXT NOT NULL)`,
  `CREATE INDEX grade_change_learner ON grade_change (learner_id, item_id, number, id)`,
  `CREATE INDEX grade_change_at ON grade_change (at)`,

  `CREATE TABLE extension (
     id INTEGER PRIMARY KEY, learner_id INTEGER NOT NULL REFERENCES learner, item_id INTEGER NOT NULL REFERENCES item,
     due_at INTEGER, excused INTEGER NOT NULL DEFAULT 0, reason TEXT NOT NULL DEFAULT '', source TEXT NOT NULL,
     staff_id INTEGER REFERENCES staff, at INTEGER NOT NULL, UNIQUE (learner_id, item_id))`,
  `CREATE INDEX extension_item ON extension (item_id)`,

  // Done or exempt by hand: goes before the rule.
  `CREATE TABLE completion_mark (
     id INTEGER PRIMARY KEY, learner_id INTEGER NOT NULL REFERENCES learner, item_id INTEGER NOT NULL REFERENCES item,
     state TEXT NOT NULL, reason TEXT NOT NULL DEFAULT '', staff_id INTEGER REFERENCES staff, at INTEGER NOT NULL,
     UNIQUE (learner_id, item_id))`,
  `CREATE INDEX completion_mark_item ON completion_mark (item_id)`,

  // Marks and extensions set by hand, what stood before each, and its undo: those of one deed have one batch.
  `CREATE TABLE work_change (
     id INTEGER PRIMARY KEY, batch INTEGER NOT NULL, kind TEXT NOT NULL,
     learner_id INTEGER NOT NULL REFERENCES learner, item_id INTEGER NOT NULL REFERENCES item,
     at INTEGER NOT NULL, staff_id INTEGER REFERENCES staff, before TEXT, after TEXT,
     reason TEXT NOT NULL DEFAULT '', undone_at INTEGER)`,
  `CREATE INDEX work_change_batch ON work_change (batch)`,
  `CREATE INDEX work_change_learner ON work_change (learner_id, item_id)`,

  `CREATE TABLE question (
     id INTEGER PRIMARY KEY, item_id INTEGER NOT NULL REFERENCES item, external_id TEXT NOT NULL,
     title TEXT NOT NULL, right_answer TEXT, UNIQUE (item_id, external_id))`,
  `CREATE TABLE response (
     id INTEGER PRIMARY KEY, question_id INTEGER NOT NULL REFERENCES question,
     learner_id INTEGER NOT NULL REFERENCES learner, attempt INTEGER NOT NULL,
     answer TEXT NOT NULL, right_answer TEXT, score REAL, points REAL, answered_at INTEGER,
     UNIQUE (question_id, learner_id, attempt))`,
  `CREATE INDEX response_learner ON response (learner_id)`,

  // What live statements say of attempts, from which those are made anew in whatever order they come.
  `CREATE TABLE result_statement (
     id INTEGER PRIMARY KEY, statement_id INTEGER NOT NULL UNIQUE REFERENCES statement,
     learner_id INTEGER NOT NULL REFERENCES learner, item_id INTEGER NOT NULL REFERENCES item, at INTEGER NOT NULL,
     step TEXT NOT NULL, score REAL, points REAL, duration_ms INTEGER, registration TEXT)`,
  `CREATE INDEX result_statement_learner ON result_statement (learner_id, item_id, at)`,

  // How much of an item was watched or gone through: each time it was more than before.
  `CREATE TABLE progress (
     id INTEGER PRIMARY KEY, learner_id INTEGER NOT NULL REFERENCES learner, item_id INTEGER NOT NULL REFERENCES item,
     at INTEGER NOT NULL, share REAL NOT NULL, UNIQUE (learner_id, item_id, at))`,
  `CREATE INDEX progress_item ON progress (item_id)`,

  // Derived: where an enrolment stands. What can change with the time alone (overdue) is kept as its dates.
  `CREATE TABLE standing (
     enrolment_id INTEGER PRIMARY KEY REFERENCES enrolment, done INTEGER NOT NULL, required INTEGER NOT NULL,
     begun INTEGER NOT NULL, completed_at INTEGER, done_days TEXT NOT NULL, plan TEXT NOT NULL,
     open_dues TEXT NOT NULL, waits TEXT NOT NULL, on_graded REAL, of_whole REAL, work TEXT NOT NULL)`,
  `CREATE TABLE standing_stale (enrolment_id INTEGER PRIMARY KEY, mark INTEGER NOT NULL)`,
  `INSERT INTO standing_stale (enrolment_id, mark) SELECT id, 0 FROM enrolment`,
  // Whoever enrols somebody, in whatever way: a standing is missing.
  `CREATE TRIGGER enrolment_added AFTER INSERT ON enrolment BEGIN
     INSERT INTO standing_stale VALUES (NEW.id, random() & 1073741823)
       ON CONFLICT DO UPDATE SET mark = excluded.mark; END`,
  `CREATE TRIGGER enrolment_changed AFTER UPDATE OF learner_id, course_id, enrolled_day, status, ended_day ON enrolment BEGIN
     INSERT INTO standing_stale VALUES (NEW.id, random() & 1073741823)
       ON CONFLICT DO UPDATE SET mark = excluded.mark; END`,

  `ALTER TABLE item_day ADD COLUMN talked INTEGER NOT NULL DEFAULT 0`,
  `ALTER TABLE item_day ADD COLUMN submitted INTEGER`,
  // Days of items are derived once more, with what was not counted before.
  `INSERT INTO touched (learner_id, from_at, to_at, mark)
     SELECT learner_id, min(at), max(at), 0 FROM event WHERE learner_id IS NOT NULL GROUP BY learner_id
     ON CONFLICT DO UPDATE SET from_at = min(from_at, excluded.from_at), to_at = max(to_at, excluded.to_at)`,
  // Drift has more to go by.
  `INSERT INTO drift_stale (enrolment_id, from_day, mark, recent) SELECT id, -1, 0, 1 FROM enrolment WHERE true
     ON CONFLICT DO UPDATE SET from_day = -1, recent = 1, mark = 0`,
];

export async function up(db: Knex): Promise<void> {
  for (const sql of CHANGES) await db.raw(sql);
}

/** Migrations only go forward; a backup is the way back. */
export async function down(): Promise<void> {
  throw new Error('Migrations of Lee Shore only go forward. Restore a backup instead.');
}
