/** The files of archived courses: where they lie, whether they are whole, and what becomes of them. */
import { randomBytes } from 'node:crypto';
import { mkdirSync } from 'node:fs';
import { copyFile, mkdir, readdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { openEraser, type PersonTerms } from '@/core/privacy/terms';
import {
  allArchiveFiles,
  archiveFilesOf,
  archivedForRecord,
  removeArchive,
  replaceArchiveFile,
  type ArchiveFile,
  type ArchivedEvent,
} from '@/data/access/log/archived';
import { writing } from '@/data/db';
import { InvalidInput } from '../request/input';
import type { Runtime } from '../runtime';
import { fileName } from '../request/file-name';
import { EventFile, openEvents, partOf, sumOf } from './parquet';

type Parts = Pick<Runtime, 'db' | 'settings'>;

/** The folder of all archives, beside the database. */
export function archiveFolder({ settings }: Pick<Runtime, 'settings'>): string {
  const folder = join(settings.dataDir, 'archive');
  mkdirSync(folder, { recursive: true });
  return folder;
}

export const pathOf = (runtime: Pick<Runtime, 'settings'>, name: string) => join(archiveFolder(runtime), name);

/** A name of its own for a course's month; the same month written anew gets another. */
export function newName(course: string, month: string): string {
  return `${fileName(course)}-${month}-${randomBytes(4).toString('hex')}.parquet`;
}

/** A file that nobody knows of and nobody has written to for so long, in ms, was left behind: another process may be writing one. */
const LEFT_AFTER = 3_600_000;

/** Removes what no archive knows of: what was left by a process that ended while it wrote. */
export async function tidyArchives(runtime: Parts & Pick<Runtime, 'clock'>): Promise<void> {
  const known = new Set((await allArchiveFiles(runtime.db)).map(({ name }) => name));
  for (const name of await readdir(archiveFolder(runtime))) {
    if (known.has(name)) continue;
    const written = await stat(pathOf(runtime, name)).catch(() => null);
    if (written && runtime.clock.real() - written.mtimeMs > LEFT_AFTER)
      await rm(pathOf(runtime, name), { force: true });
  }
}

/** Copies the files of archives to a folder, for a backup; they never change once they are written. Returns how many. */
export async function copyArchives(runtime: Parts, folder: string): Promise<number> {
  const files = await allArchiveFiles(runtime.db);
  if (files.length > 0) await mkdir(folder, { recursive: true });
  for (const { name } of files) await copyFile(pathOf(runtime, name), join(folder, name));
  return files.length;
}

/** Removes a file that is not, or no longer, part of an archive, also where only a part of it was written. */
export async function dropFile(runtime: Pick<Runtime, 'settings'>, name: string): Promise<void> {
  for (const path of [pathOf(runtime, name), partOf(pathOf(runtime, name))]) await rm(path, { force: true });
}

/** Takes a course's archive away for good. Returns how many events it held. */
export async function dropArchive(runtime: Parts, courseId: number): Promise<number> {
  const files = await archiveFilesOf(runtime.db, courseId);
  for (const { name } of files) await rm(pathOf(runtime, name), { force: true });
  await writing(runtime.db, (trx) => removeArchive(trx, courseId));
  return files.reduce((sum, { events }) => sum + events, 0);
}

/** What is wrong with the files of archives, a line for each that is not what it was when it was written. */
export async function archiveProblems(runtime: Parts): Promise<string[]> {
  const problems: string[] = [];
  for (const { name, course, month, sum } of await allArchiveFiles(runtime.db)) {
    const found = await sumOf(pathOf(runtime, name)).catch(() => null);
    if (found !== sum)
      problems.push(`archive of ${course}, ${month}: ${found === null ? 'lost' : 'damaged'} (archive/${name})`);
  }
  return problems;
}

/**
 * Takes somebody out of every archive: network addresses, ids and statements of their own events, and statements of others that
 * name them. A file that holds nothing of theirs stays as it is.
 *
 * @param ids their numbers, those of merged records too
 */
export async function eraseInArchives(runtime: Parts, ids: readonly number[], terms: PersonTerms): Promise<void> {
  const theirs = new Set(ids);
  const eraser = openEraser(terms);
  const without = (event: ArchivedEvent): ArchivedEvent => {
    const { learner, statement, address, external_id } = event;
    if (learner !== null && theirs.has(learner))
      return (address ?? external_id ?? statement)
        ? { ...event, address: null, external_id: null, statement: null }
        : event;
    return statement !== null && eraser.finds(statement) ? { ...event, statement: null } : event;
  };
  for (const file of await allArchiveFiles(runtime.db)) await writeWithout(runtime, file, without);
}

/** Everything that archives hold of somebody's records, for the record of a person. @throws InvalidInput where one cannot be read */
export async function archivedOf(runtime: Parts, ids: readonly number[]) {
  const theirs = new Set(ids);
  const rows = [];
  for (const { name, course_id, course, month } of await allArchiveFiles(runtime.db)) {
    const reader = await openEvents(pathOf(runtime, name)).catch(() => {
      const message = `has no whole record: the archive of ${course}, ${month} cannot be read`;
      throw new InvalidInput([{ field: 'learner_id', message }]);
    });
    for (const group of reader.groups) {
      const events = (await reader.read(group)).filter(({ learner }) => learner !== null && theirs.has(learner));
      rows.push(...(await archivedForRecord(runtime.db, course_id, events)));
    }
  }
  return rows;
}

async function writeWithout(
  runtime: Parts,
  { id, name, course, month }: ArchiveFile,
  without: (event: ArchivedEvent) => ArchivedEvent,
): Promise<void> {
  const reader = await openEvents(pathOf(runtime, name)).catch(() => null);
  // What cannot be read cannot be shown to anybody either: `lee check` tells of it.
  if (reader === null) return;
  let isTheirs = false;
  for (const group of reader.groups) {
    const events = await reader.read(group);
    if (events.some((event) => without(event) !== event)) {
      isTheirs = true;
      break;
    }
  }
  if (!isTheirs) return;
  const anew = newName(course, month);
  const writer = new EventFile(pathOf(runtime, anew));
  for (const group of reader.groups) writer.add((await reader.read(group)).map(without));
  const { bytes, sum } = await writer.end();
  await writing(runtime.db, (trx) => replaceArchiveFile(trx, id, { name: anew, bytes, sum }));
  await rm(pathOf(runtime, name), { force: true });
}
