/** Reading a file of delimited text from disk, in bounded chunks, whatever its encoding. */
import { createReadStream } from 'node:fs';
import { open } from 'node:fs/promises';
import { CsvReader, type CsvRow } from '@/core/imports/csv-reader';
import { Utf8Tally, encodingOf, sniffEncoding, type ReadAs } from '@/core/imports/encoding';
import { delimiterOfHead, type Plan } from '@/core/imports/foreign/plan';
import { TableRows, isSums } from '@/core/imports/foreign/table';
import { NotSuchAFile } from '@/core/imports/heading';

/** Bytes read at a time: some thousand rows, one batch. */
const CHUNK = 512 * 1024;
/** What stands where bytes are no character. */
const UNREADABLE = '\uFFFD';

/**
 * Settles a file's encoding by reading all of it once: a byte that is no UTF-8 may stand
 * anywhere.
 * @param afterChunk called now and then, since a large file takes its time
 * @throws NotSuchAFile for an empty or binary file
 */
export async function fileEncoding(path: string, afterChunk = async () => {}): Promise<ReadAs> {
  const strict = new TextDecoder('utf-8', { fatal: true });
  const tally = new Utf8Tally();
  let [first, isStrict, isMarked] = [true, true, false];
  for await (const chunk of createReadStream(path, { highWaterMark: 1024 * 1024 }) as AsyncIterable<Buffer>) {
    await afterChunk();
    if (first) {
      first = false;
      const { encoding, certain } = sniffEncoding(chunk.subarray(0, 65_536));
      if (encoding === 'binary')
        throw new NotSuchAFile('It is not text: it looks like a picture, an archive or a program.');
      if (encoding !== 'utf-8') return { encoding, damaged: true };
      isMarked = certain;
    }
    if (chunk.includes(0)) throw new NotSuchAFile('It is not text: it holds zero bytes.');
    // Nearly every file is whole, and the decoder goes over it many times faster.
    try {
      if (isStrict) strict.decode(chunk, { stream: true });
    } catch {
      isStrict = false;
    }
    if (!isStrict) break;
  }
  if (first) throw new NotSuchAFile('It is empty.');
  if (isStrict) return { encoding: 'utf-8', damaged: false };
  for await (const chunk of createReadStream(path, { highWaterMark: 1024 * 1024 }) as AsyncIterable<Buffer>) {
    if (chunk.includes(0)) throw new NotSuchAFile('It is not text: it holds zero bytes.');
    tally.push(chunk);
    await afterChunk();
  }
  return isMarked ? { encoding: 'utf-8', damaged: true } : tally.readAs();
}

/** Rows in batches, with how many bytes have been read by then. Rows with bytes that are no character are broken. */
export async function* readRows(
  path: string,
  { encoding, damaged }: ReadAs,
  delimiter: string | null = null,
): AsyncGenerator<{ rows: CsvRow[]; bytes: number }> {
  const decoder = new TextDecoder(encoding);
  const reader = new CsvReader(delimiter);
  const whole = (rows: CsvRow[]) => {
    for (const row of damaged ? rows : []) {
      if (row.cells.some((cell) => cell.includes(UNREADABLE))) row.broken = `holds bytes that are no ${encoding} text`;
    }
    return rows;
  };
  let bytes = 0;
  for await (const chunk of createReadStream(path, { highWaterMark: CHUNK }) as AsyncIterable<Buffer>) {
    bytes += chunk.length;
    const rows = whole(reader.push(decoder.decode(chunk, { stream: true })));
    if (rows.length > 0) yield { rows, bytes };
  }
  const rows = [...whole(reader.push(decoder.decode())), ...whole(reader.finish())];
  if (rows.length > 0) yield { rows, bytes };
}

/** The rows below the heading of a file of another system: those of its one table, without those of totals. */
export async function* bodyRows(
  path: string,
  encoding: ReadAs,
  { delimiter, bodyFrom, heading }: Plan,
): AsyncGenerator<{ rows: CsvRow[]; bytes: number }> {
  let toSkip = bodyFrom;
  const table = new TableRows(heading);
  let held: CsvRow | null = null;
  let last = 0;
  for await (const { rows, bytes } of readRows(path, encoding, delimiter)) {
    toSkip -= rows.splice(0, Math.min(toSkip, rows.length)).length;
    const body: CsvRow[] = [];
    for (const row of rows) {
      if (!row.broken && isSums(row.cells)) continue;
      const taken: { rows: CsvRow[]; held: CsvRow | null } = table.take(row, held);
      body.push(...taken.rows);
      held = taken.held;
    }
    last = bytes;
    if (body.length > 0) yield { rows: body, bytes };
  }
  if (held) yield { rows: [held], bytes: last };
}

/** Bytes that tell what a file is: however long it is, no more of it is read for that. */
const HEAD = 2 * 1024 ** 2;

export interface FileHead {
  rows: string[][];
  delimiter: string;
  encoding: string;
}

/** The first rows of a file. @throws NotSuchAFile for an empty or binary one */
export async function readHead(path: string): Promise<FileHead> {
  const file = await open(path);
  try {
    const { size } = await file.stat();
    const bytes = Buffer.alloc(Math.min(size, HEAD));
    await file.read(bytes, 0, bytes.length, 0);
    if (bytes.length === 0) throw new NotSuchAFile('It is empty.');
    const encoding = encodingOf(bytes, size > HEAD);
    if (encoding === 'binary')
      throw new NotSuchAFile('It is not text: it looks like a picture, a workbook that is damaged, or a program.');
    const text = new TextDecoder(encoding).decode(bytes, { stream: true });
    const delimiter = delimiterOfHead(text.replace(/\r\n?/g, '\n'));
    const reader = new CsvReader(delimiter);
    const rows = reader.push(text);
    if (size <= HEAD) rows.push(...reader.finish());
    return { rows: rows.map(({ cells }) => cells), delimiter, encoding };
  } finally {
    await file.close();
  }
}
