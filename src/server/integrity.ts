/**
 * Is the database whole? Looked at table by table while nothing else is to be done, and noted in a file beside
 * it, since a damaged database may not take a note.
 */
import { existsSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { withRaw } from '@/data/db';
import { checkTable, tablesOf } from '@/data/integrity';
import type { Runtime } from './runtime';

/** Said where not even the list of tables can be read. */
const THE_WHOLE = 'sqlite_master';

/** Is it the database's own pages that are wrong, and not what was asked of it? */
export function isDamage(error: unknown): boolean {
  return /^SQLITE_(CORRUPT|NOTADB)/.test(String((error as { code?: unknown }).code ?? ''));
}

type Parts = Pick<Runtime, 'settings' | 'db' | 'log'>;

function notePath({ settings }: Pick<Runtime, 'settings'>): string {
  return join(settings.dataDir, 'damaged.txt');
}

/** In which table damage was found; null for none. */
export function damageFound(runtime: Pick<Runtime, 'settings'>): string | null {
  const path = notePath(runtime);
  return existsSync(path) ? readFileSync(path, 'utf8').trim() : null;
}

/** Looks through the tables one by one, `between` each; notes what is damaged, or that nothing is any more. */
export async function lookForDamage(runtime: Parts, between: () => Promise<void> = async () => {}): Promise<string[]> {
  const { db, log } = runtime;
  const damaged: string[] = [];
  for (const table of (await withRaw(db, tablesOf).catch(() => null)) ?? [THE_WHOLE]) {
    if ((await withRaw(db, (raw) => checkTable(raw, table))).length > 0) damaged.push(table);
    await between();
  }
  if (damaged.length === 0) rmSync(notePath(runtime), { force: true });
  else {
    writeFileSync(notePath(runtime), `${damaged.join(', ')}\n`);
    log.error({ tables: damaged }, 'the database is damaged: put a backup in its place');
  }
  return damaged;
}
