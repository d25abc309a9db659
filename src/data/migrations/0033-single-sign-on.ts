import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  // Whom a provider knows as whom here (OpenID Connect): by its own word for them, never by an e-mail alone.
  await db.raw(`CREATE TABLE identity (
     id INTEGER PRIMARY KEY, staff_id INTEGER NOT NULL REFERENCES staff ON DELETE CASCADE, issuer TEXT NOT NULL, subject TEXT NOT NULL,
     linked_at INTEGER NOT NULL, used_at INTEGER NOT NULL, UNIQUE (issuer, subject), UNIQUE (issuer, staff_id))`);
  await db.raw('CREATE INDEX identity_staff ON identity (staff_id)');
  // A sign-in that has gone to the provider and not come back: good once.
  await db.raw(`CREATE TABLE provider_login (
     state_hash TEXT PRIMARY KEY, nonce TEXT NOT NULL, verifier TEXT NOT NULL, expires_at INTEGER NOT NULL) WITHOUT ROWID`);
  // What a claim of the provider means here: a role, or a scope.
  await db.raw(`CREATE TABLE claim_rule (
     id INTEGER PRIMARY KEY, claim TEXT NOT NULL, value TEXT NOT NULL, role TEXT, scope_kind TEXT, target TEXT NOT NULL DEFAULT '',
     CHECK ((role IS NULL) <> (scope_kind IS NULL)), UNIQUE (claim, value, role, scope_kind, target))`);
  // A scope that came by a claim goes with it; one that was given by hand stays.
  await db.raw('ALTER TABLE staff_scope ADD COLUMN by_claim INTEGER NOT NULL DEFAULT 0');
  await db.raw('ALTER TABLE session_token ADD COLUMN by_provider INTEGER NOT NULL DEFAULT 0');
}

export async function down(db: Knex): Promise<void> {
  await db.raw('ALTER TABLE session_token DROP COLUMN by_provider');
  await db.raw('ALTER TABLE staff_scope DROP COLUMN by_claim');
  for (const table of ['claim_rule', 'provider_login', 'identity']) await db.raw(`DROP TABLE ${table}`);
}
