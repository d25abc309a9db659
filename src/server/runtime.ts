/** What every piece of server work needs: database, clock, time zone, log. */
import { existsSync, mkdirSync, readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import type { Logger } from 'pino';
import { isNewer, migrate, openDb, type Db, type Use } from '@/data/db';
import { readSetting, writeSetting } from '@/data/settings';
import type { Helper } from './drift/portions';
import { makeClock, type Clock } from './clock';
import { openLog } from './log';
import { settleCopy } from './contact/outbox-marker';
import { readSettings, type Settings } from './settings';

export interface Runtime {
  settings: Settings;
  db: Db;
  clock: Clock;
  /** The programme's time zone. */
  zone: string;
  log: Logger;
  /** A thread that helps with what is derived; left out where there is none. */
  helper?: Helper;
}

/** Why the data folder cannot be opened, in one sentence that says what to do. */
export class CannotOpen extends Error {
  override name = 'CannotOpen';
}

function newerThanThis(dataDir: string): CannotOpen {
  return new CannotOpen(
    `The database in ${dataDir} is of a newer version of Lee Shore: install that one, or put back the backup from before the upgrade.`,
  );
}

/** What a fault of the machine or of the file means to whoever runs this. */
function inWords(error: unknown, dataDir: string): unknown {
  const code = String((error as { code?: unknown }).code ?? '');
  if (/^(EACCES|EPERM|EROFS|SQLITE_READONLY|SQLITE_CANTOPEN)/.test(code)) {
    return new CannotOpen(`The data folder ${dataDir} cannot be written: give whoever runs Lee Shore the right to.`);
  }
  if (/^(SQLITE_NOTADB|SQLITE_CORRUPT)/.test(code)) {
    return new CannotOpen(`The database in ${dataDir} is damaged: stop Lee Shore and put a backup in its place.`);
  }
  if (/^(ENOSPC|SQLITE_FULL|SQLITE_IOERR)/.test(code)) {
    return new CannotOpen(`The disk of ${dataDir} is full or cannot be written: make room and start again.`);
  }
  if (/migration directory is corrupt/i.test(String((error as Error).message))) return newerThanThis(dataDir);
  if (/^(ENOTDIR|EEXIST)/.test(code)) {
    return new CannotOpen(`${dataDir} is no folder: set LEESHORE_DATA_DIR to one.`);
  }
  return error;
}

/** Files that only a database leaves behind: without it something is missing, and nothing is begun anew. */
function leftBehind(dataDir: string): string | null {
  const full = (name: string) => existsSync(join(dataDir, name)) && readdirSync(join(dataDir, name)).length > 0;
  // What has been sent is counted beside the database: begun anew, it would be sent once more.
  return existsSync(join(dataDir, 'outbox.json'))
    ? 'outbox.json'
    : (['rejects', 'incoming'].find((name) => full(name)) ?? null);
}

function requireDatabase(dataDir: string, file: string): void {
  if (existsSync(file) && statSync(file).size > 0) return;
  const left = leftBehind(dataDir);
  if (left === null) return;
  throw new CannotOpen(
    `There is no database in ${dataDir}, but there are files of one (${left}): put lee-shore.sqlite back from a backup, or empty the folder to begin anew.`,
  );
}

/**
 * Opens the data folder, migrates it and settles the programme's time zone.
 * @param use what this thread is for: one that answers people is never kept waiting for a lock
 * @throws CannotOpen
 */
export async function openRuntime(settings: Settings, use: Use = 'shell'): Promise<Runtime> {
  const { dataDir } = settings;
  const file = join(dataDir, 'lee-shore.sqlite');
  let db: Db | null = null;
  try {
    requireDatabase(dataDir, file);
    mkdirSync(join(dataDir, 'incoming'), { recursive: true });
    mkdirSync(join(dataDir, 'rejects'), { recursive: true });
    db = openDb(file, use, settings.mapped);
    if (await isNewer(db)) {
      throw newerThanThis(dataDir);
    }
    await migrate(db);
    let zone = await readSetting(db, 'timezone');
    if (zone === null) {
      zone = settings.timezone ?? 'UTC';
      await writeSetting(db, 'timezone', zone);
    }
    const runtime = { settings, db, clock: makeClock(settings.now), zone, log: openLog(settings.logLevel) };
    await settleCopy(runtime);
    return runtime;
  } catch (error) {
    await db?.destroy();
    throw inWords(error, dataDir);
  }
}

const KEY = Symbol.for('lee-shore.runtime');
type Holder = { [KEY]?: Promise<Runtime> };

/** The process's own runtime. Next loads modules more than once; this is opened once. */
export function runtime(): Promise<Runtime> {
  const holder = globalThis as Holder;
  return (holder[KEY] ??= openRuntime(readSettings(process.env), 'web'));
}
