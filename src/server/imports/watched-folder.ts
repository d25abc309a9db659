/**
 * A folder that is watched: `drop/SOURCE/` in the data folder. A file of a shape that was settled before for its source is taken
 * by itself and moved to `taken/`; any other is moved to `stopped/`, with a text beside it that says why.
 */
import { createReadStream } from 'node:fs';
import { mkdir, readdir, rename, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { addRun } from '@/data/imports/import-runs';
import { SYSTEM_VIEWER } from '../system-viewer';
import type { Runtime } from '../runtime';
import { AUTO, receiveFile } from './receive';
import { InvalidInput } from '../request/input';

/** A file whose size has not changed for this long is whole, in ms. */
const RESTED = 5000;
const OWN = ['taken', 'stopped'];

/** Sizes that files had when they were last looked at, and since when. */
const seen = new Map<string, { size: number; since: number }>();

/** Takes what lies in the folder and has rested. Returns how many files were taken or stopped. */
export async function takeDropped(runtime: Runtime): Promise<number> {
  const root = join(runtime.settings.dataDir, 'drop');
  const sources = await readdir(root, { withFileTypes: true }).catch(() => []);
  let moved = 0;
  for (const source of sources) {
    if (!source.isDirectory()) continue;
    const folder = join(root, source.name);
    const files = await readdir(folder, { withFileTypes: true }).catch(() => []);
    for (const file of files) {
      if (!file.isFile() || file.name.startsWith('.') || OWN.includes(file.name)) continue;
      if (await hasRested(runtime, join(folder, file.name))) {
        await take(runtime, folder, source.name, file.name);
        moved += 1;
      }
    }
  }
  return moved;
}

async function hasRested({ clock }: Runtime, path: string): Promise<boolean> {
  const now = clock.real();
  const { size, mtimeMs } = await stat(path);
  const before = seen.get(path);
  if (before?.size !== size) {
    seen.set(path, { size, since: now });
    // One that was put there long ago has rested, whoever watches since when.
    return now - mtimeMs >= RESTED && before === undefined;
  }
  return now - before.since >= RESTED;
}

async function take(runtime: Runtime, folder: string, source: string, name: string): Promise<void> {
  const { db, clock, log, zone } = runtime;
  const path = join(folder, name);
  try {
    const asked = { kind: AUTO, source: source.slice(0, 100), file_name: name, only: 'known' };
    await receiveFile(runtime, SYSTEM_VIEWER, asked, createReadStream(path));
    await moveTo(runtime, folder, 'taken', name, null);
  } catch (error) {
    if (isGone(error)) return;
    if (!(error instanceof InvalidInput)) {
      // Of the machine: it lies where it was, and is looked at again when it changes.
      log.error({ err: error, file: name, source }, 'a file in the watched folder cannot be read');
      await leaveAlone(path);
      return;
    }
    const why = `It ${error.errors.map(({ message }) => message).join('; ')}.`;
    log.warn({ file: name, source }, 'a file in the watched folder was stopped');
    const { size } = await stat(path);
    const stopped = { state: 'failed' as const, error: why, finished_at: clock.now() };
    await addRun(db, {
      ...{ kind: 'access-log', source, timezone: zone, file_name: name, path: '', size, mapping: null, session: null },
      ...{ part: null, created_at: clock.now(), staff_id: null, ...stopped },
    });
    await moveTo(runtime, folder, 'stopped', name, why);
  }
}

/** Has another process that watches the folder moved it already? What both have taken adds nothing twice. */
function isGone(error: unknown): boolean {
  return (error as NodeJS.ErrnoException).code === 'ENOENT';
}

/** A file that can be neither taken nor moved is not looked at again until its size changes. */
async function leaveAlone(path: string): Promise<void> {
  const { size } = await stat(path).catch(() => ({ size: -1 }));
  seen.set(path, { size, since: Infinity });
}

async function moveTo(
  { clock, log }: Runtime,
  folder: string,
  where: string,
  name: string,
  why: string | null,
): Promise<void> {
  const target = join(folder, where);
  const stamp = new Date(clock.real()).toISOString().replaceAll(':', '-').slice(0, 19);
  const path = join(target, `${stamp} ${name}`);
  try {
    await mkdir(target, { recursive: true });
    if (why !== null) await writeFile(`${path}.txt`, `${name} was not taken. ${why}\n`);
    await rename(join(folder, name), path);
  } catch (error) {
    if (isGone(error)) return;
    log.error({ err: error, file: name }, 'the watched folder cannot be written');
    await leaveAlone(join(folder, name));
  }
}
