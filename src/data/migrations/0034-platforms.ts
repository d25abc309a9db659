import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  // A course platform whose people may come in from its courses (LTI 1.3). One that has ended lets nobody in.
  await db.raw(`CREATE TABLE platform (
     id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE, issuer TEXT NOT NULL, client_id TEXT NOT NULL, deployments TEXT NOT NULL,
     login_url TEXT NOT NULL, keys_url TEXT NOT NULL, token_url TEXT NOT NULL DEFAULT '', vouches_for_email INTEGER NOT NULL,
     made_at INTEGER NOT NULL, UNIQUE (issuer, client_id))`);
  // A course there, and the one here that it is: a lead says so, since what it is called there proves nothing.
  await db.raw(`CREATE TABLE platform_course (
     id INTEGER PRIMARY KEY, platform_id INTEGER NOT NULL REFERENCES platform ON DELETE CASCADE, context_id TEXT NOT NULL,
     label TEXT NOT NULL, title TEXT NOT NULL, members_url TEXT, course_id INTEGER REFERENCES course ON DELETE SET NULL,
     seen_at INTEGER NOT NULL, read_at INTEGER, import_id INTEGER, read_error TEXT, next_read_at INTEGER, active_before TEXT,
     UNIQUE (platform_id, context_id))`);
  await db.raw('CREATE INDEX platform_course_course ON platform_course (course_id)');
  await db.raw('CREATE INDEX platform_course_next ON platform_course (next_read_at) WHERE next_read_at IS NOT NULL');
  // A scope that a launch from a course gave goes with it.
  await db.raw(
    'ALTER TABLE staff_scope ADD COLUMN platform_course_id INTEGER REFERENCES platform_course ON DELETE CASCADE',
  );
  await db.raw(
    'CREATE INDEX staff_scope_platform_course ON staff_scope (platform_course_id) WHERE platform_course_id IS NOT NULL',
  );
  // A sign-in that goes to a platform; of the provider of single sign-on where it is empty.
  await db.raw('ALTER TABLE provider_login ADD COLUMN platform_id INTEGER');
}

export async function down(db: Knex): Promise<void> {
  await db.raw('ALTER TABLE provider_login DROP COLUMN platform_id');
  await db.raw('DROP INDEX staff_scope_platform_course');
  await db.raw('ALTER TABLE staff_scope DROP COLUMN platform_course_id');
  for (const table of ['platform_course', 'platform']) await db.raw(`DROP TABLE ${table}`);
}
