import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  // What is no longer kept of a course, so that nothing makes it anew. Figures by day stay.
  await db.raw(`CREATE TABLE gone (
     course_id INTEGER NOT NULL REFERENCES course ON DELETE CASCADE, kind TEXT NOT NULL, began_at INTEGER NOT NULL,
     done_at INTEGER, to_day INTEGER NOT NULL, to_at INTEGER NOT NULL, PRIMARY KEY (course_id, kind), CHECK (kind IN ('events', 'visits', 'readings'))) WITHOUT ROWID`);
  // The log of a finished course in files of its own, by month.
  await db.raw(`CREATE TABLE archive (
     course_id INTEGER PRIMARY KEY REFERENCES course ON DELETE CASCADE, state TEXT NOT NULL, asked_at INTEGER NOT NULL,
     staff_id INTEGER REFERENCES staff, done_at INTEGER, error TEXT, to_day INTEGER, to_at INTEGER,
     CHECK (state IN ('asked', 'emptying', 'done')))`);
  await db.raw(`CREATE TABLE archive_file (
     id INTEGER PRIMARY KEY, course_id INTEGER NOT NULL REFERENCES course ON DELETE CASCADE, month TEXT NOT NULL, name TEXT NOT NULL UNIQUE,
     events INTEGER NOT NULL, bytes INTEGER NOT NULL, sum TEXT NOT NULL, first_at INTEGER NOT NULL, last_at INTEGER NOT NULL)`);
  await db.raw('CREATE INDEX archive_file_course ON archive_file (course_id)');
  // Up to which day a course's events are in the log no more, wherever they went: nothing is added to these days, and nothing of
  // them is made anew. Later days of a course that is held again are as any.
  await db.raw(`CREATE VIEW log_closed AS SELECT course_id, max(to_day) AS to_day, max(to_at) AS to_at FROM (
     SELECT course_id, to_day, to_at FROM gone WHERE kind = 'events'
     UNION ALL SELECT course_id, to_day, to_at FROM archive WHERE to_day IS NOT NULL) GROUP BY course_id`);
  // A look goes when its time is over, and at no other time: the instant before which they may is set by the same rule.
  await db.raw('DROP TRIGGER look_no_delete');
  await db.raw(`CREATE TRIGGER look_no_delete BEFORE DELETE ON look
     WHEN old.at >= ifnull((SELECT CAST(value AS INTEGER) FROM setting WHERE name = 'looks_kept_from'), 0)
     BEGIN SELECT RAISE(ABORT, 'a look stays as it was written down'); END`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw('DROP TRIGGER look_no_delete');
  await db.raw(
    `CREATE TRIGGER look_no_delete BEFORE DELETE ON look BEGIN SELECT RAISE(ABORT, 'a look stays as it was written down'); END`,
  );
  await db.raw('DROP VIEW log_closed');
  for (const table of ['archive_file', 'archive', 'gone']) await db.raw(`DROP TABLE ${table}`);
}
