import type { Knex } from 'knex';

/** Times are epoch milliseconds (UTC); days are day numbers in the programme's time zone. */
const TABLES = [
  `CREATE TABLE setting (name TEXT PRIMARY KEY, value TEXT NOT NULL) WITHOUT ROWID`,

  `CREATE TABLE organisation (id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE)`,
  `CREATE TABLE course (
     id INTEGER PRIMARY KEY, code TEXT NOT NULL UNIQUE, title TEXT NOT NULL, starts_day INTEGER, ends_day INTEGER)`,
  `CREATE TABLE course_break (
     id INTEGER PRIMARY KEY, course_id INTEGER NOT NULL REFERENCES course, from_day INTEGER NOT NULL,
     to_day INTEGER NOT NULL, reason TEXT NOT NULL, UNIQUE (course_id, from_day, to_day))`,
  `CREATE TABLE course_group (
     id INTEGER PRIMARY KEY, course_id INTEGER NOT NULL REFERENCES course, name TEXT NOT NULL, UNIQUE (course_id, name))`,

  `CREATE TABLE staff (
     id INTEGER PRIMARY KEY, external_id TEXT NOT NULL UNIQUE, given_name TEXT NOT NULL,
     family_name TEXT NOT NULL DEFAULT '', email TEXT NOT NULL UNIQUE COLLATE NOCASE, role TEXT NOT NULL,
     password_hash TEXT)`,
  `CREATE TABLE learner (
     id INTEGER PRIMARY KEY, external_id TEXT NOT NULL UNIQUE, given_name TEXT NOT NULL,
     family_name TEXT NOT NULL DEFAULT '', email TEXT, phone TEXT,
     organisation_id INTEGER REFERENCES organisation)`,
  `CREATE INDEX learner_organisation ON learner (organisation_id)`,
  `CREATE INDEX learner_email ON learner (email COLLATE NOCASE)`,
  `CREATE TABLE enrolment (
     id INTEGER PRIMARY KEY, learner_id INTEGER NOT NULL REFERENCES learner, course_id INTEGER NOT NULL REFERENCES course,
     group_id INTEGER REFERENCES course_group, status TEXT NOT NULL, enrolled_day INTEGER NOT NULL, ended_day INTEGER,
     UNIQUE (learner_id, course_id))`,
  `CREATE INDEX enrolment_course ON enrolment (course_id)`,
  `CREATE INDEX enrolment_group ON enrolment (group_id)`,
  `CREATE TABLE staff_scope (
     id INTEGER PRIMARY KEY, staff_id INTEGER NOT NULL REFERENCES staff, kind TEXT NOT NULL,
     organisation_id INTEGER REFERENCES organisation, course_id INTEGER REFERENCES course,
     group_id INTEGER REFERENCES course_group, learner_id INTEGER REFERENCES learner)`,
  `CREATE UNIQUE INDEX staff_scope_once ON staff_scope (
     staff_id, kind, ifnull(organisation_id, 0), ifnull(course_id, 0), ifnull(group_id, 0), ifnull(learner_id, 0))`,
  `CREATE TABLE session_token (
     token_hash TEXT PRIMARY KEY, staff_id INTEGER NOT NULL REFERENCES staff, created_at INTEGER NOT NULL,
     expires_at INTEGER NOT NULL) WITHOUT ROWID`,
  `CREATE TABLE sign_in_delay (key TEXT PRIMARY KEY, failures INTEGER NOT NULL, until INTEGER NOT NULL) WITHOUT ROWID`,

  `CREATE TABLE unit (
     id INTEGER PRIMARY KEY, course_id INTEGER NOT NULL REFERENCES course, title TEXT NOT NULL,
     position INTEGER NOT NULL, UNIQUE (course_id, title))`,
  `CREATE TABLE item (
     id INTEGER PRIMARY KEY, course_id INTEGER NOT NULL REFERENCES course, unit_id INTEGER REFERENCES unit,
     external_id TEXT NOT NULL, title TEXT NOT NULL, kind TEXT NOT NULL, required INTEGER NOT NULL,
     opens_at INTEGER, due_at INTEGER, points REAL, category TEXT, weight REAL, changed_at INTEGER, done_when TEXT,
     position INTEGER NOT NULL, UNIQUE (course_id, external_id))`,

  `CREATE TABLE source (id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE, last_event_at INTEGER)`,
  `CREATE TABLE source_course (
     source_id INTEGER NOT NULL REFERENCES source, course_id INTEGER NOT NULL REFERENCES course,
     PRIMARY KEY (source_id, course_id)) WITHOUT ROWID`,
  `CREATE TABLE feed_gap (
     id INTEGER PRIMARY KEY, source_id INTEGER NOT NULL REFERENCES source, from_at INTEGER NOT NULL,
     to_at INTEGER NOT NULL, UNIQUE (source_id, from_at, to_at))`,
  `CREATE TABLE action (id INTEGER PRIMARY KEY, word TEXT NOT NULL UNIQUE, kind TEXT NOT NULL)`,

  // The access log. A staff event has no learner_id: it never counts as a learner's. Courses,
  // actions and sources are never deleted, so the millions of rows that name them are spared the look.
  `CREATE TABLE event (
     id INTEGER PRIMARY KEY, at INTEGER NOT NULL, learner_id INTEGER REFERENCES learner,
     staff_id INTEGER REFERENCES staff, course_id INTEGER NOT NULL, item_id INTEGER REFERENCES item,
     action_id INTEGER NOT NULL, address TEXT, source_id INTEGER NOT NULL,
     external_id TEXT)`,
  // All that visits are made of, in their order: whatever is computed of a learner reads this alone.
  `CREATE INDEX event_learner ON event (learner_id, at, id, course_id, item_id, action_id) WHERE learner_id IS NOT NULL`,
  `CREATE INDEX event_staff ON event (staff_id, at) WHERE staff_id IS NOT NULL`,
  `CREATE UNIQUE INDEX event_external ON event (source_id, external_id) WHERE external_id IS NOT NULL`,

  // Derived from event.
  `CREATE TABLE visit_part (
     learner_id INTEGER NOT NULL, visit_start INTEGER NOT NULL, course_id INTEGER NOT NULL, first INTEGER NOT NULL,
     last INTEGER NOT NULL, ms INTEGER NOT NULL, events INTEGER NOT NULL,
     PRIMARY KEY (learner_id, visit_start, course_id)) WITHOUT ROWID`,
  `CREATE TABLE learner_day (
     learner_id INTEGER NOT NULL, course_id INTEGER NOT NULL, day INTEGER NOT NULL, events INTEGER NOT NULL,
     looked INTEGER NOT NULL, worked INTEGER NOT NULL, talked INTEGER NOT NULL, other INTEGER NOT NULL,
     ms INTEGER NOT NULL, first INTEGER, last INTEGER,
     PRIMARY KEY (learner_id, course_id, day)) WITHOUT ROWID`,
  `CREATE TABLE item_day (
     learner_id INTEGER NOT NULL, item_id INTEGER NOT NULL, day INTEGER NOT NULL, opens INTEGER NOT NULL,
     events INTEGER NOT NULL, ms INTEGER NOT NULL, first INTEGER, last INTEGER,
     PRIMARY KEY (learner_id, item_id, day)) WITHOUT ROWID`,
  `CREATE TABLE learner_course (
     learner_id INTEGER NOT NULL, course_id INTEGER NOT NULL, last_at INTEGER NOT NULL, ms INTEGER NOT NULL,
     events INTEGER NOT NULL, PRIMARY KEY (learner_id, course_id)) WITHOUT ROWID`,
  `CREATE TABLE drift_reading (
     enrolment_id INTEGER NOT NULL REFERENCES enrolment, day INTEGER NOT NULL, score REAL, band INTEGER,
     reasons TEXT NOT NULL, PRIMARY KEY (enrolment_id, day)) WITHOUT ROWID`,

  // What still has to be derived anew.
  `CREATE TABLE touched (learner_id INTEGER PRIMARY KEY, from_at INTEGER NOT NULL, to_at INTEGER NOT NULL)`,
  `CREATE TABLE drift_stale (enrolment_id INTEGER PRIMARY KEY, from_day INTEGER NOT NULL)`,

  `CREATE TABLE import_run (
     id INTEGER PRIMARY KEY, kind TEXT NOT NULL, source TEXT NOT NULL, timezone TEXT NOT NULL, file_name TEXT NOT NULL,
     path TEXT NOT NULL, size INTEGER NOT NULL, state TEXT NOT NULL, read INTEGER NOT NULL DEFAULT 0,
     accepted INTEGER NOT NULL DEFAULT 0, duplicate INTEGER NOT NULL DEFAULT 0, rejected INTEGER NOT NULL DEFAULT 0,
     unmatched INTEGER NOT NULL DEFAULT 0, bytes_done INTEGER NOT NULL DEFAULT 0,
     rejects_bytes INTEGER NOT NULL DEFAULT 0, unknown_columns TEXT NOT NULL DEFAULT '[]', error TEXT,
     staff_id INTEGER REFERENCES staff, created_at INTEGER NOT NULL, finished_at INTEGER,
     owner TEXT, lease_until INTEGER NOT NULL DEFAULT 0)`,
  `CREATE INDEX import_run_state ON import_run (state)`,

  `CREATE TABLE draft (
     id INTEGER PRIMARY KEY, staff_id INTEGER NOT NULL REFERENCES staff, created_at INTEGER NOT NULL,
     subject TEXT NOT NULL DEFAULT '', body TEXT NOT NULL DEFAULT '', sent_at INTEGER)`,
  `CREATE TABLE draft_recipient (
     draft_id INTEGER NOT NULL REFERENCES draft, learner_id INTEGER NOT NULL REFERENCES learner,
     PRIMARY KEY (draft_id, learner_id)) WITHOUT ROWID`,
  `CREATE TABLE message (
     id INTEGER PRIMARY KEY, draft_id INTEGER NOT NULL REFERENCES draft, learner_id INTEGER NOT NULL REFERENCES learner,
     staff_id INTEGER NOT NULL REFERENCES staff, address TEXT NOT NULL, subject TEXT NOT NULL, body TEXT NOT NULL,
     state TEXT NOT NULL, attempts INTEGER NOT NULL DEFAULT 0, next_try_at INTEGER NOT NULL DEFAULT 0, error TEXT,
     message_id TEXT NOT NULL UNIQUE, created_at INTEGER NOT NULL, sent_at INTEGER, UNIQUE (draft_id, learner_id))`,
  `CREATE INDEX message_learner ON message (learner_id, created_at)`,
  `CREATE INDEX message_due ON message (next_try_at) WHERE state = 'queued'`,
];

export async function up(db: Knex): Promise<void> {
  for (const sql of TABLES) await db.raw(sql);
}

/** Migrations only go forward; a backup is the way back. */
export async function down(): Promise<void> {
  throw new Error('Migrations of Lee Shore only go forward. Restore a backup instead.');
}
