import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  // A link by which somebody sets a password of their own: its word is made as the mail goes, and kept as a hash alone.
  await db.raw(`CREATE TABLE password_link (
     id INTEGER PRIMARY KEY, staff_id INTEGER NOT NULL REFERENCES staff ON DELETE CASCADE, kind TEXT NOT NULL, asked_at INTEGER NOT NULL,
     asked_by INTEGER REFERENCES staff, token_hash TEXT UNIQUE, sent_at INTEGER, expires_at INTEGER, used_at INTEGER, ended_at INTEGER,
     tries INTEGER NOT NULL DEFAULT 0, next_try_at INTEGER NOT NULL DEFAULT 0, error TEXT, CHECK (kind IN ('invitation', 'forgotten')))`);
  await db.raw('CREATE INDEX password_link_staff ON password_link (staff_id)');
  await db.raw(
    'CREATE INDEX password_link_due ON password_link (next_try_at) WHERE sent_at IS NULL AND ended_at IS NULL',
  );
  // An e-mail whose password somebody says they have forgotten: whether there is such an account is looked up later, by the worker.
  await db.raw('CREATE TABLE forgotten_ask (id INTEGER PRIMARY KEY, email TEXT NOT NULL, at INTEGER NOT NULL)');
  // Codes by time (RFC 6238): the last step that was taken is kept, so that no code is good twice.
  await db.raw(`CREATE TABLE one_time_secret (
     staff_id INTEGER PRIMARY KEY REFERENCES staff ON DELETE CASCADE, secret TEXT NOT NULL, made_at INTEGER NOT NULL,
     last_step INTEGER NOT NULL)`);
  await db.raw(`CREATE TABLE recovery_code (
     staff_id INTEGER NOT NULL REFERENCES staff ON DELETE CASCADE, code_hash TEXT NOT NULL, used_at INTEGER,
     PRIMARY KEY (staff_id, code_hash)) WITHOUT ROWID`);
  // Passkeys (Web Authentication): the public key alone is here.
  await db.raw(`CREATE TABLE passkey (
     id INTEGER PRIMARY KEY, staff_id INTEGER NOT NULL REFERENCES staff ON DELETE CASCADE, credential_id TEXT NOT NULL UNIQUE,
     public_key TEXT NOT NULL, counter INTEGER NOT NULL, transports TEXT NOT NULL, name TEXT NOT NULL, made_at INTEGER NOT NULL,
     used_at INTEGER)`);
  await db.raw('CREATE INDEX passkey_staff ON passkey (staff_id)');
  // What a passkey is asked to sign, good once.
  await db.raw(`CREATE TABLE passkey_challenge (
     challenge TEXT PRIMARY KEY, staff_id INTEGER REFERENCES staff ON DELETE CASCADE, expires_at INTEGER NOT NULL) WITHOUT ROWID`);
  // Somebody whose password was right, and who has yet to show the second factor.
  await db.raw(`CREATE TABLE half_sign_in (
     token_hash TEXT PRIMARY KEY, staff_id INTEGER NOT NULL REFERENCES staff ON DELETE CASCADE, expires_at INTEGER NOT NULL,
     is_shown INTEGER NOT NULL DEFAULT 0) WITHOUT ROWID`);
  // Tokens of one's own, for programs.
  await db.raw(`CREATE TABLE own_token (
     id INTEGER PRIMARY KEY, staff_id INTEGER NOT NULL REFERENCES staff ON DELETE CASCADE, name TEXT NOT NULL, token_hash TEXT NOT NULL UNIQUE,
     may_write INTEGER NOT NULL, scopes TEXT, made_at INTEGER NOT NULL, expires_at INTEGER NOT NULL, used_at INTEGER, ended_at INTEGER,
     ended_by INTEGER REFERENCES staff)`);
  await db.raw('CREATE INDEX own_token_staff ON own_token (staff_id)');
  // By what a change was made, where that was no browser.
  await db.raw('ALTER TABLE audit ADD COLUMN via TEXT');
}

export async function down(db: Knex): Promise<void> {
  await db.raw('ALTER TABLE audit DROP COLUMN via');
  for (const table of [
    'own_token',
    'half_sign_in',
    'passkey_challenge',
    'passkey',
    'recovery_code',
    'one_time_secret',
    'forgotten_ask',
    'password_link',
  ])
    await db.raw(`DROP TABLE ${table}`);
}
