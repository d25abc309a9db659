/** Opening the database. Everything else takes the handle made here. */
import type Database from 'better-sqlite3';
import knex, { type Knex } from 'knex';
import SqliteClient from 'knex/lib/dialects/better-sqlite3/index.js';
import { setTimeout as pause } from 'node:timers/promises';
import { standInEmail, standInId, standInName, standInPhone } from '@/core/hidden-names/stand-ins';
import { foldText } from '@/core/people/fold';
import { migrationSource } from './migrations';

export type Db = Knex;
export type RawConnection = Database.Database;

/** The same for every connection, and for the baselines in bench/. */
export const PRAGMAS = [
  'journal_mode = WAL',
  'synchronous = NORMAL',
  'foreign_keys = ON',
  'cache_size = -65536',
  'temp_store = MEMORY',
  // What is deleted or written over is overwritten within its page: nobody finds it in the file later.
  'secure_delete = FAST',
] as const;

/** How long a thread stands still for another's write lock, in ms: one that answers people does not. */
const BLOCKING = { background: 10_000, web: 0 } as const;
/** How long a write is tried again before it is given up as busy, in ms, and the pauses between. */
const PATIENCE = 10_000;
const AGAIN_AFTER = { least: 3, most: 15 } as const;
/** Connections of a process that answers people: who waits for the write lock keeps nobody from reading. */
const WEB_CONNECTIONS = 4;

/**
 * What a database is opened for: `web` answers people, so it never stands still for a lock; `worker`, `helper`, `outbox` and
 * `files` work beside it, in the same process and within its memory; `shell` has a process of its own.
 */
export type Use = 'web' | 'worker' | 'helper' | 'outbox' | 'files' | 'shell';

/** What each keeps in memory, where it is less than what all do. */
const MEMORY: Record<Use, readonly string[]> = {
  web: ['cache_size = -8192'],
  worker: ['cache_size = -24576', 'temp_store = FILE', 'temp.cache_size = -8192'],
  helper: ['cache_size = -16384'],
  // Little at a time.
  outbox: ['cache_size = -2048'],
  files: ['cache_size = -8192', 'temp_store = FILE', 'temp.cache_size = -8192'],
  shell: [],
};

export const BUSY = 'Lee Shore is busy storing something large. Nothing was changed: try again in a moment.';

/** Somebody else is writing, and went on for longer than anybody should wait. Nothing was changed. */
export class Busy extends Error {
  override name = 'Busy';
  constructor() {
    super(BUSY);
  }
}

/**
 * Was it given up as busy? Told by its name: parts of the application that are bundled apart have a class of
 * their own each, and share one database. Its message may have the statement before it.
 */
export function isGivenUp(error: unknown): boolean {
  return error instanceof Error && error.name === 'Busy';
}

function isBusy(error: unknown): boolean {
  return (error as { code?: string }).code === 'SQLITE_BUSY';
}

/**
 * Tries a statement again while another connection holds the write lock, without standing still.
 * A statement refused by the lock has done nothing, so trying it again is safe.
 * @throws Busy after ten seconds
 */
async function patiently<T>(work: () => T | Promise<T>): Promise<T> {
  const until = performance.now() + PATIENCE;
  for (;;) {
    try {
      return await work();
    } catch (error) {
      if (!isBusy(error)) throw error;
      if (performance.now() > until) throw new Busy();
      await pause(AGAIN_AFTER.least + Math.random() * (AGAIN_AFTER.most - AGAIN_AFTER.least));
    }
  }
}

interface KnexQuery {
  sql: string;
  bindings?: readonly unknown[];
  response?: unknown;
  context?: { lastID: number | bigint; changes: number };
}

/** Knex's client with statements that are prepared once, and with patience for the write lock. */
class PatientClient extends SqliteClient {
  async _query(connection: RawConnection, query: KnexQuery): Promise<KnexQuery> {
    const statement = prepared(connection, query.sql);
    const bindings = this._formatBindings(query.bindings);
    if (statement.reader) query.response = await patiently(() => statement.all(bindings));
    else {
      const done = await patiently(() => statement.run(bindings));
      query.response = done;
      query.context = { lastID: done.lastInsertRowid, changes: done.changes };
    }
    return query;
  }
}

/**
 * Opens the database.
 * @param mapped how many bytes of the file are mapped into memory: read there, and not copied page by page
 */
export function openDb(file: string, use: Use = 'shell', mapped = 0): Db {
  const web = use === 'web';
  return knex({
    client: PatientClient,
    connection: { filename: file },
    useNullAsDefault: true,
    // An error names its statement, never the values: they are people's.
    compileSqlOnError: false,
    // What goes wrong is thrown; saying it here as well would be saying it twice, and at length.
    log: { warn() {}, error() {}, deprecate() {}, debug() {} },
    pool: {
      min: 1,
      max: web ? WEB_CONNECTIONS : 1,
      afterCreate(connection: RawConnection, done: (error: Error | null, connection: RawConnection) => void) {
        try {
          connection.pragma(`busy_timeout = ${web ? BLOCKING.web : BLOCKING.background}`);
          for (const pragma of PRAGMAS) connection.pragma(pragma);
          for (const pragma of MEMORY[use]) connection.pragma(pragma);
          connection.pragma(`mmap_size = ${mapped}`);
          addStandInFunctions(connection);
          done(null, connection);
        } catch (error) {
          done(error as Error, connection);
        }
      },
    },
  });
}

/** Stand-ins and folded texts as SQL functions, so that lists are searched and sorted by what they show. */
function addStandInFunctions(connection: RawConnection) {
  const functions: Record<string, (key: string, id: number) => string> = {
    stand_in_id: standInId,
    stand_in_given: (key, id) => standInName(key, id).given_name,
    stand_in_family: (key, id) => standInName(key, id).family_name,
    stand_in_email: standInEmail,
    stand_in_phone: standInPhone,
  };
  for (const [name, work] of Object.entries(functions)) {
    connection.function(name, { deterministic: true }, work as (...args: unknown[]) => unknown);
  }
  connection.function('fold_text', { deterministic: true }, (text) => foldText(String(text ?? '')));
}

/** Brings the schema up to date. Safe to call at every start. */
export async function migrate(db: Db): Promise<void> {
  await db.migrate.latest({ migrationSource, tableName: 'schema_migration' });
}

/** Has a newer version brought the schema further than this one knows? */
export async function isNewer(db: Db): Promise<boolean> {
  if (!(await db.schema.hasTable('schema_migration'))) return false;
  const known: unknown[] = await migrationSource.getMigrations([]);
  const names = known.map((migration) => migrationSource.getMigrationName(migration as never));
  return Boolean(await db('schema_migration').whereNotIn('name', names).first('name'));
}

/** Is every migration of this version in place? */
export async function isMigrated(db: Db): Promise<boolean> {
  if (await isNewer(db)) return false;
  const [, pending] = (await db.migrate.list({ migrationSource, tableName: 'schema_migration' })) as [
    unknown[],
    unknown[],
  ];
  return pending.length === 0;
}

/**
 * A transaction that takes the write lock first. A transaction that reads before it
 * writes would fail at once, instead of waiting, when another connection wrote between.
 */
export async function writing<T>(db: Db, work: (trx: Db) => Promise<T>): Promise<T> {
  return db.transaction(async (trx) => {
    await trx.raw('UPDATE setting SET value = value WHERE 0');
    return work(trx);
  });
}

/**
 * Bulk work on the bare connection, in one write transaction: for loops over many rows
 * where a query builder's cost per row would be most of the time.
 */
export async function rawTransaction<T>(db: Db, work: (raw: RawConnection) => T): Promise<T> {
  return patiently(async () => {
    const raw = (await db.client.acquireConnection()) as RawConnection;
    try {
      return raw.transaction(work).immediate(raw);
    } finally {
      await db.client.releaseConnection(raw);
    }
  });
}

/**
 * One short write that has reached the disk when it returns. In WAL mode a commit with
 * `synchronous = NORMAL` may be lost with the power; with FULL it is not.
 */
export async function durableTransaction<T>(db: Db, work: (raw: RawConnection) => T): Promise<T> {
  return patiently(async () => {
    const raw = (await db.client.acquireConnection()) as RawConnection;
    try {
      raw.pragma('synchronous = FULL');
      return raw.transaction(work).immediate(raw);
    } finally {
      raw.pragma('synchronous = NORMAL');
      await db.client.releaseConnection(raw);
    }
  });
}

/** Bulk reading on the bare connection. */
export async function withRaw<T>(db: Db, work: (raw: RawConnection) => T): Promise<T> {
  const raw = (await db.client.acquireConnection()) as RawConnection;
  try {
    return work(raw);
  } finally {
    await db.client.releaseConnection(raw);
  }
}

/** How many rows a query finds. */
export async function countOf(query: Knex.QueryBuilder): Promise<number> {
  const { found } = await query.count({ found: '*' }).first();
  return Number(found);
}

/** The greatest of a column in what a query finds; null where it finds nothing. */
export async function maxOf(query: Knex.QueryBuilder, column: string): Promise<number | null> {
  const { most } = await query.max({ most: column }).first();
  return most;
}

/** How many rows a table has. */
export function countRows(raw: RawConnection, table: string): number {
  return raw.prepare(`SELECT count(*) FROM ${table}`).pluck().get() as number;
}

const statements = new WeakMap<RawConnection, Map<string, Database.Statement>>();
/** Texts that are kept prepared: those asked for last. */
const KEPT = 300;

/** A statement that is prepared once for each connection: for what screens ask over and over. */
export function prepared(raw: RawConnection, sql: string): Database.Statement {
  let own = statements.get(raw);
  if (!own) statements.set(raw, (own = new Map()));
  const known = own.get(sql);
  const statement = known ?? raw.prepare(sql);
  // What was asked last stands last, so that the longest unused goes first.
  if (known) own.delete(sql);
  own.set(sql, statement);
  for (const oldest of own.keys()) {
    if (own.size <= KEPT) break;
    own.delete(oldest);
  }
  return statement;
}
