/** Which import is worked on, by whom: one at a time, whatever processes there are. */
import { readdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { HOUR } from '@/core/time/zone';
import { claimRun, findRun, offeredRuns, openRuns } from '@/data/imports/import-runs';
import { isHeld, isOfThisProcess } from '../owner';
import type { Runtime } from '../runtime';
import { LEASE, runImport } from './run';

/** A file that has been coming in for longer than this is coming no more, in ms. */
const COMING_FOR = 6 * HOUR;

/** Clears away chunks of uploads that broke off: files that no import waits for. Returns how many. */
export async function clearBrokenUploads(runtime: Pick<Runtime, 'settings' | 'db' | 'clock'>): Promise<number> {
  const { db, settings, clock } = runtime;
  const folder = join(settings.dataDir, 'incoming');
  const wanted = new Set([...(await openRuns(db)), ...(await offeredRuns(db))].map((run) => run.path));
  let cleared = 0;
  for (const name of await readdir(folder)) {
    const path = join(folder, name);
    const age = clock.real() - (await stat(path)).mtimeMs;
    if (wanted.has(name) || age < COMING_FOR) continue;
    await rm(path, { force: true, recursive: true });
    cleared += 1;
  }
  return cleared;
}

/**
 * Works on the oldest import that nobody is working on. Returns what became of it:
 * `idle` when there is none, `again` when the machine could not do it now.
 */
export async function workOnNext(runtime: Runtime, owner: string): Promise<'done' | 'idle' | 'again'> {
  const { db, clock } = runtime;
  const runs = await openRuns(db);
  const taken = runs.find((run) => run.owner !== owner && isHeld(run, clock.real()));
  const next = runs[0];
  if (taken || !next) return 'idle';
  // Whoever was at it and has let go while this process goes on has broken down: out of memory, as a rule.
  const hasBrokenDown = next.owner !== null && next.owner !== owner && isOfThisProcess(next.owner);
  const claim = { owner, lease_until: clock.real() + LEASE, tries: next.tries + Number(hasBrokenDown) };
  if (!(await claimRun(db, next.id, next, claim))) return 'idle';
  // What was counted since it was seen is counted from here on.
  const run = (await findRun(db, next.id))!;
  return (await runImport(runtime, run, owner)) ? 'done' : 'again';
}
