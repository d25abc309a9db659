/** The files of the data folder without a person: rows that were not taken, files that wait, and what was made of the data. */
import { createReadStream, createWriteStream } from 'node:fs';
import { open, readdir, rename, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { createInterface } from 'node:readline';
import { once } from 'node:events';
import { finished } from 'node:stream/promises';
import Papa from 'papaparse';
import { delimiterOf } from '@/core/imports/csv-reader';
import { openEraser, rowsOf as rowsOfPerson, type PersonTerms } from '@/core/privacy/terms';
import type { Runtime } from '../runtime';

/** Bytes by which a file of text is told from any other. */
const LOOKED_AT = 4096;

async function isText(path: string): Promise<boolean> {
  const file = await open(path);
  try {
    const { bytesRead, buffer } = await file.read(Buffer.alloc(LOOKED_AT), 0, LOOKED_AT, 0);
    return !buffer.subarray(0, bytesRead).includes(0) && buffer.subarray(0, 4).toString('latin1') !== 'PK\u0003\u0004';
  } finally {
    await file.close();
  }
}

/** Every file under a folder. */
async function filesUnder(folder: string): Promise<string[]> {
  const entries = await readdir(folder, { withFileTypes: true, recursive: true }).catch(() => []);
  return entries.filter((entry) => entry.isFile()).map((entry) => join(entry.parentPath, entry.name));
}

/** Does a text have an open quotation at its end? Then the row goes on in the next line. */
const isOpen = (text: string) => (text.split('"').length - 1) % 2 === 1;

/** Lines that one row may span: a quotation mark that is never closed does not swallow the file. */
const LONGEST_ROW = 1000;

/** Rows of a file of delimited text, with their own line breaks. */
async function* rowsOf(path: string): AsyncGenerator<string> {
  let row = '';
  let lines = 0;
  for await (const line of createInterface({ input: createReadStream(path, 'utf8'), crlfDelay: Infinity })) {
    row = lines === 0 ? line : `${row}\n${line}`;
    lines += 1;
    if (isOpen(row) && lines < LONGEST_ROW) continue;
    yield row;
    lines = 0;
  }
  if (lines > 0) yield row;
}

/** Tells of each row of a file, from the first on, whether it is theirs. */
type TellRows = () => (row: string) => boolean;

/** By the heading of each file. */
function tellRows(terms: PersonTerms): TellRows {
  const eraser = openEraser(terms);
  return () => {
    let delimiter = ',';
    let isTheirs: ((cells: readonly string[]) => boolean) | null = null;
    return (row) => {
      if (isTheirs === null) delimiter = delimiterOf(row);
      const [cells = []] = Papa.parse<string[]>(row, { delimiter }).data;
      isTheirs ??= rowsOfPerson(terms, eraser, cells);
      return isTheirs(cells) || eraser.finds(row);
    };
  };
}

/** Writes a file of text anew without the rows that are theirs. Returns whether there were any. */
async function withoutRows(path: string, tell: TellRows): Promise<boolean> {
  let found = false;
  const looked = tell();
  for await (const row of rowsOf(path)) if (looked(row)) found = true;
  if (!found) return false;
  const anew = `${path}.part`;
  const out = createWriteStream(anew, 'utf8');
  const isTheirs = tell();
  for await (const row of rowsOf(path)) if (!isTheirs(row) && !out.write(`${row}\n`)) await once(out, 'drain');
  out.end();
  await finished(out);
  await overwrite(path);
  await rename(anew, path);
  return true;
}

/** Writes zeros over a file's bytes: what is left of it on the disk says nothing. */
async function overwrite(path: string): Promise<void> {
  const { size } = await stat(path);
  const file = await open(path, 'r+');
  try {
    const zeros = Buffer.alloc(Math.min(size, 1 << 20));
    for (let at = 0; at < size; at += zeros.length) await file.write(zeros, 0, Math.min(zeros.length, size - at), at);
    await file.sync();
  } finally {
    await file.close();
  }
}

async function erased(path: string): Promise<void> {
  await overwrite(path);
  await rm(path, { force: true });
}

/** What was written for a moment: reports that were made, which are asked for again. */
const MADE = ['reports'];
/** Where rows of files are kept. */
const ROWS = ['rejects', 'incoming', 'drop'];

/**
 * Takes a person out of every file of the data folder but the database. Text loses the rows that are theirs; a file that cannot
 * be read row by row (a workbook, an archive) goes whole, as do reports that were made and the pages of their messages.
 *
 * @param pages numbers of the pages that went with their messages
 * @returns names of the files that went whole
 */
export async function eraseFiles(
  { settings }: Pick<Runtime, 'settings'>,
  terms: PersonTerms,
  pages: readonly number[],
): Promise<string[]> {
  const tell = tellRows(terms);
  const gone: string[] = [];
  for (const folder of MADE)
    for (const path of await filesUnder(join(settings.dataDir, folder))) {
      await erased(path);
      gone.push(path);
    }
  for (const page of pages) {
    const path = join(settings.dataDir, 'pages', String(page));
    if (await stat(path).catch(() => null)) await erased(path);
  }
  for (const folder of ROWS)
    for (const path of await filesUnder(join(settings.dataDir, folder))) {
      if (await isText(path)) await withoutRows(path, tell);
      else {
        await erased(path);
        gone.push(path);
      }
    }
  return gone;
}
