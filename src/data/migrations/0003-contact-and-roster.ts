import type { Knex } from 'knex';

const CHANGES = [
  // How a learner is reached, and what becomes of a record that was merged into another.
  `ALTER TABLE learner ADD COLUMN preferred_channel TEXT`,
  `ALTER TABLE learner ADD COLUMN timezone TEXT`,
  `ALTER TABLE learner ADD COLUMN merged_into INTEGER REFERENCES learner`,
  `CREATE INDEX learner_merged ON learner (merged_into) WHERE merged_into IS NOT NULL`,
  `CREATE TABLE learner_contact (
     id INTEGER PRIMARY KEY, learner_id INTEGER NOT NULL REFERENCES learner, name TEXT NOT NULL, relation TEXT NOT NULL,
     email TEXT, phone TEXT)`,
  `CREATE INDEX learner_contact_learner ON learner_contact (learner_id)`,

  // Messages by e-mail or text message, held until an instant of the programme's clock.
  `CREATE TABLE template (
     id INTEGER PRIMARY KEY, course_id INTEGER REFERENCES course, name TEXT NOT NULL, subject TEXT NOT NULL,
     body TEXT NOT NULL, position INTEGER NOT NULL, ended_at INTEGER)`,
  `ALTER TABLE draft ADD COLUMN channel TEXT NOT NULL DEFAULT 'preferred'`,
  `ALTER TABLE draft ADD COLUMN template_id INTEGER REFERENCES template`,
  `ALTER TABLE draft ADD COLUMN look_again_day INTEGER`,
  `ALTER TABLE message ADD COLUMN channel TEXT NOT NULL DEFAULT 'email'`,
  `ALTER TABLE message ADD COLUMN template_id INTEGER REFERENCES template`,
  `ALTER TABLE message ADD COLUMN not_before INTEGER NOT NULL DEFAULT 0`,
  `CREATE INDEX message_created ON message (created_at, id)`,
  // What came in: an answer, or word that a message could not be delivered.
  `CREATE TABLE reply (
     id INTEGER PRIMARY KEY, learner_id INTEGER REFERENCES learner, message_id INTEGER REFERENCES message,
     kind TEXT NOT NULL, external_id TEXT NOT NULL UNIQUE, sender TEXT NOT NULL, subject TEXT NOT NULL, body TEXT NOT NULL,
     received_at INTEGER NOT NULL, settled_at INTEGER)`,
  `CREATE INDEX reply_learner ON reply (learner_id, received_at)`,
  `CREATE INDEX reply_message ON reply (message_id)`,
  `CREATE INDEX reply_received ON reply (received_at, id)`,
  `CREATE TABLE call (
     id INTEGER PRIMARY KEY, learner_id INTEGER NOT NULL REFERENCES learner, staff_id INTEGER NOT NULL REFERENCES staff,
     at INTEGER NOT NULL, outcome TEXT NOT NULL, remark TEXT NOT NULL DEFAULT '')`,
  `CREATE INDEX call_learner ON call (learner_id, at)`,
  `CREATE INDEX call_at ON call (at)`,
  `CREATE VIEW contact_attempt AS
     SELECT learner_id, created_at AS at FROM message WHERE state NOT IN ('failed', 'bounced')
     UNION ALL SELECT learner_id, at FROM call`,

  `CREATE TABLE label (id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE COLLATE NOCASE, position INTEGER NOT NULL)`,
  `CREATE TABLE note (
     id INTEGER PRIMARY KEY, learner_id INTEGER NOT NULL REFERENCES learner, staff_id INTEGER NOT NULL REFERENCES staff,
     at INTEGER NOT NULL, body TEXT NOT NULL, audience TEXT NOT NULL, ended_at INTEGER)`,
  `CREATE INDEX note_learner ON note (learner_id, at)`,
  `CREATE INDEX note_at ON note (at, id)`,
  `CREATE TABLE note_label (
     note_id INTEGER NOT NULL REFERENCES note, label_id INTEGER NOT NULL REFERENCES label,
     PRIMARY KEY (note_id, label_id)) WITHOUT ROWID`,
  `INSERT INTO label (name, position) VALUES
     ('agreed', 1), ('health', 2), ('work', 3), ('technical', 4), ('praise', 5)`,

  `CREATE TABLE follow_up (
     id INTEGER PRIMARY KEY, learner_id INTEGER NOT NULL REFERENCES learner, owner_id INTEGER NOT NULL REFERENCES staff,
     made_by INTEGER NOT NULL REFERENCES staff, created_at INTEGER NOT NULL, due_day INTEGER NOT NULL,
     reason TEXT NOT NULL, snapshot TEXT NOT NULL, draft_id INTEGER REFERENCES draft, closed_at INTEGER, outcome TEXT,
     closed_by INTEGER REFERENCES staff)`,
  `CREATE INDEX follow_up_open ON follow_up (owner_id, due_day) WHERE closed_at IS NULL`,
  `CREATE INDEX follow_up_learner ON follow_up (learner_id, created_at)`,

  // The roster: who stood in which file, what was changed by hand, and by whom.
  `ALTER TABLE enrolment ADD COLUMN seen_run INTEGER REFERENCES import_run`,
  `CREATE INDEX enrolment_seen ON enrolment (seen_run) WHERE seen_run IS NOT NULL`,
  `ALTER TABLE staff ADD COLUMN ended_at INTEGER`,
  `CREATE TABLE audit (
     id INTEGER PRIMARY KEY, at INTEGER NOT NULL, staff_id INTEGER REFERENCES staff, learner_id INTEGER REFERENCES learner,
     course_id INTEGER REFERENCES course, what TEXT NOT NULL, subject TEXT NOT NULL, changes TEXT NOT NULL)`,
  `CREATE INDEX audit_at ON audit (at, id)`,
  `CREATE INDEX audit_learner ON audit (learner_id, at) WHERE learner_id IS NOT NULL`,
  `CREATE TABLE merge (
     id INTEGER PRIMARY KEY, kept_id INTEGER NOT NULL REFERENCES learner, gone_id INTEGER NOT NULL REFERENCES learner,
     staff_id INTEGER REFERENCES staff, at INTEGER NOT NULL, undone_at INTEGER, record TEXT NOT NULL)`,
  `CREATE TABLE merge_row (
     merge_id INTEGER NOT NULL REFERENCES merge, table_name TEXT NOT NULL, row_id INTEGER NOT NULL,
     PRIMARY KEY (merge_id, table_name, row_id)) WITHOUT ROWID`,

  // Files whose headings are not ours, and words that were not known.
  `CREATE TABLE mapping (
     source TEXT NOT NULL, kind TEXT NOT NULL, spec TEXT NOT NULL, PRIMARY KEY (source, kind)) WITHOUT ROWID`,
  `ALTER TABLE import_run ADD COLUMN mapping TEXT`,
  `ALTER TABLE action ADD COLUMN events INTEGER NOT NULL DEFAULT 0`,
  `ALTER TABLE action ADD COLUMN settled INTEGER NOT NULL DEFAULT 0`,
  `ALTER TABLE action ADD COLUMN derive_anew INTEGER NOT NULL DEFAULT 0`,
  `UPDATE action SET events = (SELECT count(*) FROM event WHERE action_id = action.id), settled = kind <> 'other'`,

  // What people keep for themselves.
  `CREATE TABLE saved_view (
     id INTEGER PRIMARY KEY, staff_id INTEGER NOT NULL REFERENCES staff, name TEXT NOT NULL, query TEXT NOT NULL,
     UNIQUE (staff_id, name))`,
  `ALTER TABLE session_token ADD COLUMN covered INTEGER NOT NULL DEFAULT 0`,
];

export async function up(db: Knex): Promise<void> {
  for (const sql of CHANGES) await db.raw(sql);
}

/** Migrations only go forward; a backup is the way back. */
export async function down(): Promise<void> {
  throw new Error('Migrations of Lee Shore only go forward. Restore a backup instead.');
}
