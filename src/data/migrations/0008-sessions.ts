import type { Knex } from 'knex';

const CHANGES = [
  // A weekly series as an RFC 5545 rule with a local start; what it is made of may be changed one by one.
  `CREATE TABLE session_series (
     id INTEGER PRIMARY KEY, course_id INTEGER NOT NULL REFERENCES course, group_id INTEGER REFERENCES course_group,
     rule TEXT NOT NULL, made_by INTEGER REFERENCES staff, created_at INTEGER NOT NULL)`,

  `CREATE TABLE session (
     id INTEGER PRIMARY KEY, external_id TEXT NOT NULL UNIQUE, course_id INTEGER NOT NULL REFERENCES course,
     group_id INTEGER REFERENCES course_group, item_id INTEGER REFERENCES item, item_ref TEXT,
     series_id INTEGER REFERENCES session_series, series_day INTEGER,
     title TEXT NOT NULL, day INTEGER NOT NULL, starts_at INTEGER NOT NULL, ends_at INTEGER NOT NULL, mode TEXT NOT NULL,
     place TEXT NOT NULL DEFAULT '', instructor_id INTEGER REFERENCES staff,
     cancelled INTEGER NOT NULL DEFAULT 0, reason TEXT NOT NULL DEFAULT '',
     by_hand INTEGER NOT NULL DEFAULT 0, imported TEXT, secret TEXT NOT NULL,
     roll_at INTEGER, roll_by INTEGER REFERENCES staff,
     sequence INTEGER NOT NULL DEFAULT 0, changed_at INTEGER NOT NULL, removed_at INTEGER)`,
  `CREATE INDEX session_course ON session (course_id, starts_at)`,
  `CREATE INDEX session_time ON session (starts_at)`,
  `CREATE INDEX session_of_series ON session (series_id, series_day) WHERE series_id IS NOT NULL`,
  `CREATE INDEX session_item ON session (item_id) WHERE item_id IS NOT NULL`,

  // Each change of the timetable, with the rows as they were: its undo.
  `CREATE TABLE session_change (
     id INTEGER PRIMARY KEY, staff_id INTEGER REFERENCES staff, at INTEGER NOT NULL, what TEXT NOT NULL,
     before TEXT NOT NULL, undone_at INTEGER)`,

  // The marks a roll can give.
  `CREATE TABLE mark (
     id INTEGER PRIMARY KEY, code TEXT NOT NULL UNIQUE, label TEXT NOT NULL, credit REAL NOT NULL,
     counts INTEGER NOT NULL, position INTEGER NOT NULL, ended_at INTEGER)`,
  `INSERT INTO mark (code, label, credit, counts, position) VALUES
     ('present', 'present', 1, 1, 1), ('late', 'late', 0.75, 1, 2), ('partial', 'partial', 0.5, 1, 3),
     ('absent', 'absent', 0, 1, 4), ('excused', 'excused', 0, 0, 5)`,

  // Where one suggested mark ends and the next begins, for courses that have their own.
  `CREATE TABLE session_rule (
     course_id INTEGER PRIMARY KEY REFERENCES course, absent_under REAL NOT NULL, present_from REAL NOT NULL,
     grace_minutes INTEGER NOT NULL, late_after INTEGER NOT NULL)`,

  // differs: the mark of a file that came after one set by hand.
  `CREATE TABLE attendance (
     id INTEGER PRIMARY KEY, session_id INTEGER NOT NULL REFERENCES session, learner_id INTEGER NOT NULL REFERENCES learner,
     mark TEXT NOT NULL REFERENCES mark (code), remark TEXT NOT NULL DEFAULT '', source TEXT NOT NULL,
     staff_id INTEGER REFERENCES staff, at INTEGER NOT NULL, differs TEXT, UNIQUE (session_id, learner_id))`,
  `CREATE INDEX attendance_learner ON attendance (learner_id, session_id, mark)`,
  `CREATE TABLE attendance_change (
     id INTEGER PRIMARY KEY, session_id INTEGER NOT NULL REFERENCES session, learner_id INTEGER NOT NULL REFERENCES learner,
     at INTEGER NOT NULL, staff_id INTEGER REFERENCES staff, source TEXT NOT NULL,
     old_mark TEXT, mark TEXT, old_remark TEXT NOT NULL, remark TEXT NOT NULL)`,
  `CREATE INDEX attendance_change_of ON attendance_change (session_id, learner_id)`,
  `CREATE INDEX attendance_change_learner ON attendance_change (learner_id)`,

  // When devices came and went, as a meeting has it, and whom each row is about.
  `CREATE TABLE presence_row (
     id INTEGER PRIMARY KEY, session_id INTEGER NOT NULL REFERENCES session, person TEXT NOT NULL, folded TEXT NOT NULL,
     email TEXT, entered INTEGER NOT NULL, "left" INTEGER, learner_id INTEGER REFERENCES learner, matched TEXT)`,
  `CREATE INDEX presence_row_session ON presence_row (session_id, entered, person)`,
  `CREATE INDEX presence_row_name ON presence_row (folded)`,
  `CREATE INDEX presence_row_learner ON presence_row (learner_id) WHERE learner_id IS NOT NULL`,
  // What each learner's rows come to.
  `CREATE TABLE presence (
     session_id INTEGER NOT NULL REFERENCES session, learner_id INTEGER NOT NULL REFERENCES learner, ms INTEGER NOT NULL,
     first_in INTEGER, last_out INTEGER, reconnects INTEGER NOT NULL, longest_gap_ms INTEGER NOT NULL, is_open INTEGER NOT NULL,
     PRIMARY KEY (session_id, learner_id)) WITHOUT ROWID`,
  `CREATE INDEX presence_learner ON presence (learner_id)`,
  `CREATE TABLE presence_alias (
     course_id INTEGER NOT NULL REFERENCES course, folded TEXT NOT NULL, learner_id INTEGER REFERENCES learner,
     staff_id INTEGER REFERENCES staff, at INTEGER NOT NULL, PRIMARY KEY (course_id, folded)) WITHOUT ROWID`,

  // Self check-in: one device, one learner, one session.
  `CREATE TABLE check_in (
     id INTEGER PRIMARY KEY, session_id INTEGER NOT NULL REFERENCES session, learner_id INTEGER NOT NULL REFERENCES learner,
     device TEXT NOT NULL, at INTEGER NOT NULL, state TEXT NOT NULL, UNIQUE (session_id, learner_id))`,
  `CREATE INDEX check_in_device ON check_in (session_id, device)`,
  `CREATE INDEX check_in_learner ON check_in (learner_id)`,
  `CREATE TABLE check_in_try (
     session_id INTEGER NOT NULL REFERENCES session, device TEXT NOT NULL, failures INTEGER NOT NULL, until INTEGER NOT NULL,
     PRIMARY KEY (session_id, device)) WITHOUT ROWID`,

  // Secret addresses that calendar programs read.
  `CREATE TABLE calendar_feed (
     id INTEGER PRIMARY KEY, staff_id INTEGER NOT NULL REFERENCES staff, course_id INTEGER REFERENCES course,
     token_hash TEXT NOT NULL UNIQUE, created_at INTEGER NOT NULL, read_at INTEGER, ended_at INTEGER)`,
  `CREATE INDEX calendar_feed_staff ON calendar_feed (staff_id)`,

  // A file of presence may be all of one session's, a calendar all of one course or group.
  `ALTER TABLE import_run ADD COLUMN session TEXT`,
  `ALTER TABLE import_run ADD COLUMN part TEXT`,
];

export async function up(db: Knex): Promise<void> {
  for (const sql of CHANGES) await db.raw(sql);
}

/** Migrations only go forward; a backup is the way back. */
export async function down(): Promise<void> {
  throw new Error('Migrations of Lee Shore only go forward. Restore a backup instead.');
}
