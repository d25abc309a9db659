/** What every piece of server work needs: database, clock, time zone, log. */
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import pino, { type Logger } from 'pino';
import { migrate, openDb, type Db } from '@/data/db';
import { readSetting, writeSetting } from '@/data/settings';
import { makeClock, type Clock } from './clock';
import { readSettings, type Settings } from './settings';

export interface Runtime {
  settings: Settings;
  db: Db;
  clock: Clock;
  /** The programme's time zone. */
  zone: string;
  log: Logger;
}

/** Opens the data folder, migrates it and settles the programme's time zone. */
export async function openRuntime(settings: Settings): Promise<Runtime> {
  mkdirSync(join(settings.dataDir, 'incoming'), { recursive: true });
  mkdirSync(join(settings.dataDir, 'rejects'), { recursive: true });
  const log = pino({ level: settings.logLevel, base: undefined, timestamp: pino.stdTimeFunctions.isoTime });
  const db = openDb(join(settings.dataDir, 'lee-shore.sqlite'));
  await migrate(db);
  let zone = await readSetting(db, 'timezone');
  if (zone === null) {
    zone = settings.timezone ?? 'UTC';
    await writeSetting(db, 'timezone', zone);
  }
  return { settings, db, clock: makeClock(settings.now), zone, log };
}

const KEY = Symbol.for('lee-shore.runtime');
type Holder = { [KEY]?: Promise<Runtime> };

/** The process's own runtime. Next loads modules more than once; this is opened once. */
export function runtime(): Promise<Runtime> {
  const holder = globalThis as Holder;
  return (holder[KEY] ??= openRuntime(readSettings(process.env)));
}
