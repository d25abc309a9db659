/** The browser's worker that reads the first rows of a chosen file. */
import { CsvReader } from '@/core/formats/csv-reader';
import { encodingOf } from '@/core/formats/encoding';

export interface Preview {
  encoding: string;
  /** The heading and the first rows. */
  rows: string[][];
  /** Why the file cannot be taken, if that is plain already. */
  problem: string | null;
}

const HEAD = 256 * 1024;
const ROWS = 6;

async function read(file: File): Promise<Preview> {
  if (file.size === 0) return { encoding: '', rows: [], problem: 'The file is empty.' };
  const bytes = new Uint8Array(await file.slice(0, HEAD).arrayBuffer());
  const encoding = encodingOf(bytes, file.size > HEAD);
  if (encoding === 'binary') return { encoding, rows: [], problem: 'This is not a text file.' };
  const reader = new CsvReader();
  const rows = reader.push(new TextDecoder(encoding).decode(bytes, { stream: true }));
  if (file.size <= HEAD) rows.push(...reader.finish());
  return { encoding, rows: rows.slice(0, ROWS).map((row) => row.cells), problem: null };
}

self.onmessage = async ({ data }: MessageEvent<File>) => {
  self.postMessage(await read(data));
};
