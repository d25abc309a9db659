import type { Knex } from 'knex';

/** A check cannot be changed: the table is made anew with its rows. */
async function remakeDropped(db: Knex, kinds: string): Promise<void> {
  await db.raw(`CREATE TABLE dropped_anew (
     id INTEGER PRIMARY KEY, kind TEXT NOT NULL, record_id INTEGER NOT NULL, name TEXT NOT NULL, at INTEGER NOT NULL,
     staff_id INTEGER REFERENCES staff, before TEXT NOT NULL, UNIQUE (kind, record_id), CHECK (kind IN (${kinds})))`);
  await db.raw('INSERT INTO dropped_anew SELECT id, kind, record_id, name, at, staff_id, before FROM dropped');
  await db.raw('DROP TABLE dropped');
  await db.raw('ALTER TABLE dropped_anew RENAME TO dropped');
}

export async function up(db: Knex): Promise<void> {
  // Does a course's platform say how far people are?
  await db.raw(
    'CREATE INDEX platform_snapshot_progress ON platform_snapshot (course_id, made_at) WHERE progress IS NOT NULL',
  );
  // A course that was made may be dropped as well.
  await remakeDropped(db, "'learner', 'item', 'course'");
  // A credential is good for one protocol alone.
  await db.raw("ALTER TABLE source_credential ADD COLUMN protocol TEXT NOT NULL DEFAULT 'xapi'");
  // Files and calendars that are fetched from an address again and again.
  await db.raw(`CREATE TABLE fetched_address (
     id INTEGER PRIMARY KEY, url TEXT NOT NULL, source TEXT NOT NULL, part TEXT, every_minutes INTEGER NOT NULL,
     next_at INTEGER NOT NULL, etag TEXT, modified TEXT, digest TEXT, checked_at INTEGER, taken_at INTEGER,
     problem TEXT, failing_since INTEGER, created_at INTEGER NOT NULL, staff_id INTEGER REFERENCES staff,
     UNIQUE (url, source), CHECK (every_minutes >= 5))`);
  await db.raw('CREATE INDEX fetched_address_next ON fetched_address (next_at)');
}

export async function down(db: Knex): Promise<void> {
  await db.raw("DELETE FROM dropped WHERE kind = 'course'");
  await remakeDropped(db, "'learner', 'item'");
  await db.raw('DROP TABLE fetched_address');
  await db.raw('ALTER TABLE source_credential DROP COLUMN protocol');
  await db.raw('DROP INDEX platform_snapshot_progress');
}
