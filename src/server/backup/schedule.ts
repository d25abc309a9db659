/** Backups by themselves: one a day at an hour of the programme's zone, each looked through, so many kept. */
import { existsSync } from 'node:fs';
import { mkdir, readdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { MINUTE, dateOfDay, dayOf, fromWallClock, DAY } from '@/core/time/zone';
import type { Runtime } from '../runtime';
import { noteRemoved } from './made';
import { archivesBeside, checkBackup, makeBackup } from './make';

/** Names of the backups that are made by themselves: nothing else in their folder is ever removed. */
const OWN = /^lee-shore-\d{4}-\d{2}-\d{2}\.sqlite$/;

/** The file of a day's backup. */
function fileOf(dir: string, day: number): string {
  return join(dir, `lee-shore-${dateOfDay(day)}.sqlite`);
}

type Parts = Pick<Runtime, 'settings' | 'clock' | 'zone'>;

/**
 * The file of the backup that is due; null where none is. One that was missed while nothing ran is made as soon as something does,
 * unless the next is less than a day away and was made.
 */
export function dueBackup({ settings: { backups }, clock, zone }: Parts): string | null {
  if (backups === null) return null;
  const now = clock.now();
  const today = dayOf(now, zone);
  const isPast = now >= fromWallClock(today * DAY + backups.minute * MINUTE, zone);
  const file = fileOf(backups.dir, isPast ? today : today - 1);
  return existsSync(file) ? null : file;
}

/**
 * Makes the backup that is due, looks through it and removes those that are more than are kept. One in which something is wrong is
 * kept beside those that are whole, and no whole one goes for it.
 *
 * @returns what was wrong, a line for each; null where none was due
 */
export async function backUpIfDue(runtime: Runtime): Promise<string[] | null> {
  const file = dueBackup(runtime);
  const { backups } = runtime.settings;
  if (file === null || backups === null) return null;
  await mkdir(backups.dir, { recursive: true });
  await tidy(backups.dir);
  await makeBackup(runtime, file);
  const problems = await checkBackup(runtime, file);
  if (problems.length === 0) await removeOld(runtime, backups);
  return problems;
}

/** Takes away what a process that was killed has left: copies that were not whole, and folders in which one was looked through. */
async function tidy(dir: string): Promise<void> {
  for (const name of await readdir(dir))
    if (/^restored-/.test(name) || /^lee-shore-.*\.sqlite\.part$/.test(name))
      await rm(join(dir, name), { recursive: true, force: true });
}

async function removeOld(runtime: Runtime, { dir, kept }: { dir: string; kept: number }): Promise<void> {
  const own = (await readdir(dir)).filter((name) => OWN.test(name)).sort();
  const old = own.slice(0, Math.max(0, own.length - kept)).map((name) => join(dir, name));
  for (const file of old) {
    await rm(file, { force: true });
    await rm(archivesBeside(file), { recursive: true, force: true });
  }
  if (old.length > 0) await noteRemoved(runtime, old);
}
