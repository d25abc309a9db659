/** Opening the database. Everything else takes the handle made here. */
import type Database from 'better-sqlite3';
import knex, { type Knex } from 'knex';
import { standInEmail, standInId, standInName, standInPhone } from '@/core/cover/stand-ins';
import { migrationSource } from './migrations';

export type Db = Knex;
export type RawConnection = Database.Database;

/** The same for every connection, and for the baselines in bench/. */
export const PRAGMAS = [
  'journal_mode = WAL',
  'synchronous = NORMAL',
  'foreign_keys = ON',
  'busy_timeout = 10000',
  'cache_size = -65536',
  'temp_store = MEMORY',
] as const;

export function openDb(file: string): Db {
  return knex({
    client: 'better-sqlite3',
    connection: { filename: file },
    useNullAsDefault: true,
    pool: {
      min: 1,
      max: 1,
      afterCreate(connection: RawConnection, done: (error: Error | null, connection: RawConnection) => void) {
        try {
          for (const pragma of PRAGMAS) connection.pragma(pragma);
          addCoverFunctions(connection);
          done(null, connection);
        } catch (error) {
          done(error as Error, connection);
        }
      },
    },
  });
}

/** Stand-ins as SQL functions, so that lists are searched and sorted by what they show. */
function addCoverFunctions(connection: RawConnection) {
  const functions: Record<string, (key: string, id: number) => string> = {
    cover_id: standInId,
    cover_given: (key, id) => standInName(key, id).given_name,
    cover_family: (key, id) => standInName(key, id).family_name,
    cover_email: standInEmail,
    cover_phone: standInPhone,
  };
  for (const [name, work] of Object.entries(functions)) {
    connection.function(name, { deterministic: true }, work as (...args: unknown[]) => unknown);
  }
}

/** Brings the schema up to date. Safe to call at every start. */
export async function migrate(db: Db): Promise<void> {
  await db.migrate.latest({ migrationSource, tableName: 'schema_migration' });
}

/** Is every migration of this version in place? */
export async function isMigrated(db: Db): Promise<boolean> {
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
export async function writingRaw<T>(db: Db, work: (raw: RawConnection) => T): Promise<T> {
  const raw = (await db.client.acquireConnection()) as RawConnection;
  try {
    return raw.transaction(work).immediate(raw);
  } finally {
    await db.client.releaseConnection(raw);
  }
}

/** Bulk reading on the bare connection. */
export async function readingRaw<T>(db: Db, work: (raw: RawConnection) => T): Promise<T> {
  const raw = (await db.client.acquireConnection()) as RawConnection;
  try {
    return work(raw);
  } finally {
    await db.client.releaseConnection(raw);
  }
}

const statements = new WeakMap<RawConnection, Map<string, Database.Statement>>();
/** Texts that are kept prepared: those of the last filters asked for. */
const KEPT = 100;

/** A statement that is prepared once for each connection: for what screens ask over and over. */
export function prepared(raw: RawConnection, sql: string): Database.Statement {
  let own = statements.get(raw);
  if (!own) statements.set(raw, (own = new Map()));
  let statement = own.get(sql);
  if (!statement) {
    statement = raw.prepare(sql);
    own.set(sql, statement);
    for (const oldest of own.keys()) {
      if (own.size <= KEPT) break;
      own.delete(oldest);
    }
  }
  return statement;
}
