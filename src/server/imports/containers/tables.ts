/**
 * Files as tables: what holds them is opened, and each table is written out as comma-separated text beside the file, which is
 * then taken like any other. Rows stand on the lines that they have in their sheet.
 */
import { createReadStream, createWriteStream, type WriteStream } from 'node:fs';
import { open } from 'node:fs/promises';
import { once } from 'node:events';
import { randomUUID } from 'node:crypto';
import { join } from 'node:path';
import { createInterface } from 'node:readline';
import { rawCsvLine } from '@/core/imports/cells';
import { flatten, listIn } from '@/core/imports/containers/json';
import { OdsReader } from '@/core/imports/containers/ods';
import { SharedStrings, SheetReader, readRelations, readStyles, readWorkbook } from '@/core/imports/containers/xlsx';
import { NotSuchAFile } from '@/core/imports/heading';
import { oneRosterFolder } from '@/core/imports/one-roster/files';
import { oneRosterTables } from '../one-roster/tables';
import { openArchive, type Archive } from './zip';

/** Rows of a sheet, columns of a row, and letters of texts that are kept at hand. */
const MOST_ROWS = 1_000_000;
const MOST_COLUMNS = 2000;
const MOST_LETTERS = 24 * 1024 ** 2;
const TOO_WIDE = `Only the first ${MOST_COLUMNS.toLocaleString('en-GB')} columns are read.`;
/** A list that has to be read whole. */
const MOST_JSON = 50 * 1024 ** 2;

/** A table that was found in a file. */
export interface FoundTable {
  /** The file's name, with the sheet's where there are several. */
  name: string;
  /** Where its text lies: a name in the folder of incoming files. */
  path: string;
  /** What was left out, for whoever brought it in. */
  notes: string[];
}

/** Writes rows on the lines that they have. */
class TableFile {
  rows = 0;
  private line = 1;
  private readonly stream: WriteStream;
  readonly name = randomUUID();

  constructor(folder: string) {
    this.stream = createWriteStream(join(folder, this.name));
  }

  async write(number: number, cells: readonly string[]): Promise<void> {
    this.rows += 1;
    if (this.rows > MOST_ROWS) throw new NotSuchAFile('It has more than 1,000,000 rows. Save it in smaller pieces.');
    let text = '';
    // A sheet may begin far down: a gap is told by one line's number, not by a million lines.
    if (number - this.line < 1000)
      while (this.line < number) {
        text += '\n';
        this.line += 1;
      }
    // A line break in a cell would move every line after it.
    text += rawCsvLine(cells.map((cell) => (/[\r\n]/.test(cell) ? cell.replace(/\s*[\r\n]+\s*/g, ' ') : cell)));
    this.line += 1;
    if (!this.stream.write(text)) await once(this.stream, 'drain');
  }

  async end(): Promise<void> {
    this.stream.end();
    await once(this.stream, 'finish');
  }
}

type Kind = 'zip' | 'old workbook' | 'json' | 'text';

async function kindOfFile(path: string): Promise<Kind> {
  const file = await open(path);
  try {
    const head = Buffer.alloc(512);
    const { bytesRead } = await file.read(head, 0, head.length, 0);
    if (
      head.subarray(0, 4).equals(Buffer.from('PK\u0003\u0004')) ||
      head.subarray(0, 4).equals(Buffer.from('PK\u0005\u0006'))
    )
      return 'zip';
    if (head.subarray(0, 4).equals(Buffer.from([0xd0, 0xcf, 0x11, 0xe0]))) return 'old workbook';
    return /^\uFEFF?\s*(\[\s*\{|\{\s*")/.test(head.subarray(0, bytesRead).toString('utf8')) ? 'json' : 'text';
  } finally {
    await file.close();
  }
}

/**
 * Opens a file and writes its tables out.
 *
 * @param folder of incoming files
 * @param now by when what a roster says has ended is over
 * @returns null for one that is a table itself: text, which stays where it is
 * @throws NotSuchAFile
 */
export async function tablesOf(
  folder: string,
  path: string,
  fileName: string,
  now: number,
): Promise<FoundTable[] | null> {
  switch (await kindOfFile(join(folder, path))) {
    case 'text':
      return null;
    case 'old workbook':
      throw new NotSuchAFile(
        'It is a workbook of the old kind, or one with a password. Open it and save it as XLSX without a password.',
      );
    case 'json':
      return [await jsonTable(folder, join(folder, path), fileName)];
    case 'zip': {
      const archive = await openArchive(join(folder, path));
      try {
        const tables = await tablesOfArchive(folder, archive, fileName, now, true);
        if (tables.length === 0) throw new NotSuchAFile('It is an archive without a table in it.');
        return tables;
      } finally {
        archive.close();
      }
    }
  }
}

async function tablesOfArchive(
  folder: string,
  archive: Archive,
  fileName: string,
  now: number,
  mayNest = false,
): Promise<FoundTable[]> {
  if (archive.entries.has('xl/workbook.xml')) return xlsxTables(folder, archive, fileName);
  if (archive.entries.has('content.xml')) return odsTables(folder, archive, fileName);
  const roster = oneRosterFolder(archive.entries.keys());
  if (roster !== null) return oneRosterTables(folder, archive, { name: fileName, within: roster }, now);
  if (!mayNest) throw new NotSuchAFile('It is an archive in an archive: unpack it first.');
  const tables: FoundTable[] = [];
  for (const [name, entry] of archive.entries) {
    const short = name.split('/').at(-1)!;
    if (short.startsWith('.') || name.startsWith('__MACOSX/')) continue;
    if (/\.(zip|xlsx|xlsm|ods)$/i.test(short)) {
      const chunks: Buffer[] = [];
      let size = 0;
      for await (const chunk of await archive.stream(entry)) {
        size += chunk.length;
        if (size > 50 * 1024 ** 2) throw new NotSuchAFile(`${short} is larger than 50 MB: bring it in by itself.`);
        chunks.push(chunk);
      }
      const inner = await openArchive(Buffer.concat(chunks));
      try {
        tables.push(...(await tablesOfArchive(folder, inner, short, now)));
      } finally {
        inner.close();
      }
    } else if (/\.(csv|tsv|txt|tab|json|jsonl|ndjson)$/i.test(short)) {
      const target = randomUUID();
      const stream = createWriteStream(join(folder, target));
      for await (const chunk of await archive.stream(entry)) if (!stream.write(chunk)) await once(stream, 'drain');
      stream.end();
      await once(stream, 'finish');
      const again = (await kindOfFile(join(folder, target))) === 'json';
      tables.push(
        again ? await jsonTable(folder, join(folder, target), short) : { name: short, path: target, notes: [] },
      );
    }
  }
  return tables;
}

async function xlsxTables(folder: string, archive: Archive, fileName: string): Promise<FoundTable[]> {
  const part = async (name: string) => {
    const entry = archive.entries.get(name);
    return entry ? archive.text(entry) : '';
  };
  const bad = (error: unknown) => {
    throw error instanceof NotSuchAFile ? error : new NotSuchAFile('It is a workbook with a part that cannot be read.');
  };
  try {
    const { sheets, is1904 } = readWorkbook(await part('xl/workbook.xml'));
    const relations = readRelations(await part('xl/_rels/workbook.xml.rels'));
    const styles = await part('xl/styles.xml');
    const looks = styles === '' ? [] : readStyles(styles);
    const strings = await sharedStrings(archive);
    const shown = sheets.filter(({ isHidden }) => !isHidden);
    const hidden = sheets.filter(({ isHidden }) => isHidden).map(({ name }) => name);
    const tables: FoundTable[] = [];
    for (const { name, relation } of shown) {
      const target = relations
        .get(relation)
        ?.replace(/^\/xl\//, '')
        .replace(/^\.\//, '');
      const entry = target === undefined ? undefined : archive.entries.get(`xl/${target}`);
      if (!entry) continue;
      const reader = new SheetReader(strings, looks, is1904, MOST_COLUMNS);
      const file = new TableFile(folder);
      const decoder = new TextDecoder();
      for await (const chunk of await archive.stream(entry))
        for (const row of reader.push(decoder.decode(chunk, { stream: true }))) await file.write(row.number, row.cells);
      await file.end();
      if (file.rows === 0) continue;
      const notes = reader.hidden > 0 ? [`Left out of ${name}: ${reader.hidden} hidden rows.`] : [];
      if (reader.isWider) notes.push(TOO_WIDE);
      tables.push({ name: shown.length > 1 ? `${fileName}, ${name}` : fileName, path: file.name, notes });
    }
    if (hidden.length > 0 && tables.length > 0)
      tables[0].notes.push(`Hidden sheets are left out: ${hidden.join(', ')}.`);
    if (tables.length === 0) throw new NotSuchAFile('It is a workbook with nothing in it.');
    return tables;
  } catch (error) {
    return bad(error);
  }
}

async function sharedStrings(archive: Archive): Promise<string[]> {
  const entry = archive.entries.get('xl/sharedStrings.xml');
  if (!entry) return [];
  const strings = new SharedStrings();
  const decoder = new TextDecoder();
  for await (const chunk of await archive.stream(entry)) {
    strings.write(decoder.decode(chunk, { stream: true }));
    if (strings.size > MOST_LETTERS)
      throw new NotSuchAFile('It is a workbook with more text than can be read. Save it as CSV.');
  }
  return strings.texts;
}

async function odsTables(folder: string, archive: Archive, fileName: string): Promise<FoundTable[]> {
  const reader = new OdsReader(MOST_COLUMNS);
  const files = new Map<string, TableFile>();
  const decoder = new TextDecoder();
  try {
    for await (const chunk of await archive.stream(archive.entries.get('content.xml')!)) {
      for (const { sheet, number, cells } of reader.push(decoder.decode(chunk, { stream: true }))) {
        let file = files.get(sheet);
        if (!file) files.set(sheet, (file = new TableFile(folder)));
        await file.write(number, cells);
      }
    }
  } catch (error) {
    if (error instanceof NotSuchAFile) throw error;
    throw new NotSuchAFile('It is a spreadsheet with a part that cannot be read.');
  } finally {
    for (const file of files.values()) await file.end();
  }
  if (files.size === 0) throw new NotSuchAFile('It is a spreadsheet with nothing in it.');
  const hidden =
    reader.hiddenSheets.length > 0 ? [`Hidden sheets are left out: ${reader.hiddenSheets.join(', ')}.`] : [];
  const rows = reader.hidden > 0 ? [`${reader.hidden} hidden rows are left out.`] : [];
  return [...files].map(([sheet, file], index) => ({
    name: files.size > 1 ? `${fileName}, ${sheet}` : fileName,
    path: file.name,
    notes: index === 0 ? [...hidden, ...rows, ...(reader.isWider ? [TOO_WIDE] : [])] : [],
  }));
}

/** Objects read this far tell which columns a table has. */
const HEAD_OBJECTS = 2000;

async function jsonTable(folder: string, path: string, fileName: string): Promise<FoundTable> {
  const file = new TableFile(folder);
  let names: string[] | null = null;
  const pending: Map<string, string>[] = [];
  const flush = async (all: boolean) => {
    if (names === null && !all && pending.length < HEAD_OBJECTS) return;
    if (names === null) {
      names = [...new Set(pending.flatMap((fields) => [...fields.keys()]))].slice(0, MOST_COLUMNS);
      await file.write(1, names);
    }
    for (const fields of pending.splice(0))
      await file.write(
        file.rows + 1,
        names.map((name) => fields.get(name) ?? ''),
      );
  };
  try {
    const handle = await open(path);
    const { size } = await handle.stat();
    await handle.close();
    let lines: number | null = 0;
    // An object a line, unless the first line is none by itself.
    for await (const line of createInterface({ input: createReadStream(path, 'utf8'), crlfDelay: Infinity })) {
      const text = line.replace(/^\uFEFF/, '').trim();
      if (text === '') continue;
      const parsed = objectIn(text);
      if (parsed === null) {
        if (lines > 0) throw new NotSuchAFile(`Its object ${lines + 1} is no JSON.`);
        lines = null;
        break;
      }
      lines += 1;
      pending.push(flatten(parsed));
      await flush(false);
    }
    if (lines === null || lines === 1) {
      if (size > MOST_JSON)
        throw new NotSuchAFile('It is a list of more than 50 MB. Save it with an object a line, or as CSV.');
      const list = listIn(JSON.parse((await readWhole(path)).replace(/^\uFEFF/, '')));
      if (list) pending.splice(0, pending.length, ...list.map(flatten));
      else if (lines === null) throw new NotSuchAFile('It is JSON without a list of objects in it.');
    }
    await flush(true);
  } catch (error) {
    throw error instanceof NotSuchAFile ? error : new NotSuchAFile('It is no JSON that can be read.');
  } finally {
    await file.end();
  }
  return { name: fileName, path: file.name, notes: [] };
}

function objectIn(text: string): object | null {
  if (!text.startsWith('{') || !text.endsWith('}')) return null;
  try {
    return JSON.parse(text) as object;
  } catch {
    return null;
  }
}

async function readWhole(path: string): Promise<string> {
  const handle = await open(path);
  try {
    return await handle.readFile('utf8');
  } finally {
    await handle.close();
  }
}
