/** A copy of the database and its archives while people work, and the look at it that tells whether it could be put back. */
import { constants, existsSync } from 'node:fs';
import { copyFile, cp, mkdtemp, rename, rm } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { countRows, withRaw } from '@/data/db';
import { checkTable, tablesOf } from '@/data/integrity';
import { archiveFolder, archiveProblems, copyArchives } from '../archive/files';
import { openRuntime, type Runtime } from '../runtime';
import { noteBackup, noteChecked } from './made';

/** Pages copied at a time: all of them. In pieces it would begin anew whenever somebody writes meanwhile. */
const WHOLE = 2 ** 31 - 1;

/** Where the files of archives are put beside a backup. */
export const archivesBeside = (file: string) => `${file}-archive`;

/**
 * Copies the database to a file, which has its name only once it is whole, and its archives beside it.
 * Returns how many files of archives there were. It stands still meanwhile: for a process of its own.
 */
export async function makeBackup(runtime: Runtime, file: string): Promise<number> {
  const part = `${file}.part`;
  try {
    await withRaw(runtime.db, (raw) => raw.backup(part, { progress: () => WHOLE }));
    await rename(part, file);
  } finally {
    await rm(part, { force: true });
  }
  await noteBackup(runtime, file);
  return copyArchives(runtime, archivesBeside(file));
}

/** Tables without rows in a backup of a database that has some would be no backup. */
const COUNTED = ['learner', 'course', 'enrolment', 'staff'];

/**
 * Puts a backup back in a folder of its own, opens it there as a start would, looks through every page and every file of its
 * archives, and takes the folder away. Returns what was wrong, a line for each.
 */
export async function checkBackup(runtime: Runtime, file: string): Promise<string[]> {
  const folder = await mkdtemp(join(dirname(file), 'restored-'));
  let restored: Runtime | null = null;
  try {
    await copyFile(file, join(folder, 'lee-shore.sqlite'), constants.COPYFILE_FICLONE);
    const settings = { ...runtime.settings, dataDir: folder, mapped: 0 };
    if (existsSync(archivesBeside(file)))
      await cp(archivesBeside(file), archiveFolder({ settings }), {
        recursive: true,
        mode: constants.COPYFILE_FICLONE,
      });
    restored = await openRuntime(settings, 'shell');
    const problems = [...(await damage(restored)), ...(await missing(runtime, restored))];
    problems.push(...(await archiveProblems(restored)));
    await noteChecked(runtime, file, problems);
    return problems;
  } catch (error) {
    const problems = [`cannot be put back: ${(error as Error).message.replaceAll(folder, '…')}`];
    await noteChecked(runtime, file, problems);
    return problems;
  } finally {
    await restored?.db.destroy();
    await rm(folder, { recursive: true, force: true });
  }
}

async function damage({ db }: Runtime): Promise<string[]> {
  return withRaw(db, (raw) =>
    tablesOf(raw).flatMap((table) => checkTable(raw, table).map((line) => `${table}: ${line}`)),
  );
}

/** Tables that have rows in the database, and none in what was put back. */
async function missing(runtime: Runtime, restored: Runtime): Promise<string[]> {
  const counts = ({ db }: Runtime) => withRaw(db, (raw) => COUNTED.map((table) => countRows(raw, table)));
  const [here, there] = [await counts(runtime), await counts(restored)];
  return COUNTED.filter((_, index) => here[index] > 0 && there[index] === 0).map((table) => `${table}: no rows`);
}
