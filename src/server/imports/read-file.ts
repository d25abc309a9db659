/** Reading a file of delimited text from disk, in bounded pieces, whatever its encoding. */
import { createReadStream } from 'node:fs';
import { CsvReader, type CsvRow } from '@/core/formats/csv-reader';
import { sniffEncoding, type TextEncoding } from '@/core/formats/encoding';
import { NotSuchAFile } from '@/core/formats/heading';

/** Bytes read at a time: some thousand rows, one batch. */
const CHUNK = 512 * 1024;

/**
 * Settles a file's encoding by reading all of it once: a byte that is no UTF-8 may stand
 * anywhere.
 * @throws NotSuchAFile for an empty or binary file
 */
export async function fileEncoding(path: string, afterPiece = async () => {}): Promise<TextEncoding> {
  const strict = new TextDecoder('utf-8', { fatal: true });
  let first = true;
  for await (const chunk of createReadStream(path, { highWaterMark: 1024 * 1024 }) as AsyncIterable<Buffer>) {
    if (first) {
      first = false;
      const { encoding, certain } = sniffEncoding(chunk.subarray(0, 65_536));
      if (encoding === 'binary')
        throw new NotSuchAFile('It is not text: it looks like a picture, an archive or a program.');
      if (certain || encoding !== 'utf-8') return encoding;
    }
    if (chunk.includes(0)) throw new NotSuchAFile('It is not text: it holds zero bytes.');
    try {
      strict.decode(chunk, { stream: true });
    } catch {
      return 'windows-1252';
    }
  }
  if (first) throw new NotSuchAFile('It is empty.');
  return 'utf-8';
}

/** Rows in batches, with how many bytes have been read by then. */
export async function* readRows(
  path: string,
  encoding: TextEncoding,
): AsyncGenerator<{ rows: CsvRow[]; bytes: number }> {
  const decoder = new TextDecoder(encoding);
  const reader = new CsvReader();
  let bytes = 0;
  for await (const chunk of createReadStream(path, { highWaterMark: CHUNK }) as AsyncIterable<Buffer>) {
    bytes += chunk.length;
    const rows = reader.push(decoder.decode(chunk, { stream: true }));
    if (rows.length > 0) yield { rows, bytes };
  }
  reader.push(decoder.decode());
  const rows = reader.finish();
  if (rows.length > 0) yield { rows, bytes };
}
