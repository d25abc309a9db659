/** The browser's worker that reads the first rows of a chosen file, as they would be taken. */
import { CsvReader } from '@/core/imports/csv-reader';
import { encodingOf } from '@/core/imports/encoding';
import { NotSuchAFile, checkRow, datesToIso, readHeading } from '@/core/imports/heading';
import type { FileKindName } from '@/core/imports/kinds';
import { proposeMapping, type Mapping, type Proposal } from '@/core/imports/mapping';

export interface PreviewRequest {
  file: File;
  kind: FileKindName;
  /** Which column is what; null for our own headings. */
  mapping: Mapping | null;
}

/** A row as it would be taken, by our columns, or why it would not. Who and what it names is looked up later. */
export interface TakenRow {
  values: Record<string, string> | null;
  fault: { field: string; reason: string } | null;
}

export interface Preview {
  encoding: string;
  heading: string[];
  /** The first rows as they stand in the file. */
  rows: string[][];
  taken: TakenRow[];
  /** Which column is likely what. */
  proposal: Proposal | null;
  /** Why the file cannot be taken at all. */
  problem: string | null;
  /** Why its headings do not do, by our own names or by the mapping. */
  headingProblem: string | null;
}

const HEAD = 256 * 1024;
const ROWS = 20;

async function read(request: PreviewRequest): Promise<Preview> {
  const { file, kind, mapping } = request;
  const nothing: Preview = {
    encoding: '',
    heading: [],
    rows: [],
    taken: [],
    proposal: null,
    problem: null,
    headingProblem: null,
  };
  if (file.size === 0) return { ...nothing, problem: 'The file is empty.' };
  const bytes = new Uint8Array(await file.slice(0, HEAD).arrayBuffer());
  const encoding = encodingOf(bytes, file.size > HEAD);
  if (encoding === 'binary') return { ...nothing, problem: 'This is not a text file.' };
  const reader = new CsvReader();
  const all = reader.push(new TextDecoder(encoding).decode(bytes, { stream: true }));
  if (file.size <= HEAD) all.push(...reader.finish());
  const [heading, ...rows] = all.slice(0, ROWS + 1).map((row) => row.cells);
  if (!heading) return { ...nothing, problem: 'The file holds nothing but blank lines.' };
  const found = { ...nothing, encoding, heading, rows, proposal: proposeMapping(kind, heading, rows) };
  try {
    const ours = readHeading(kind, heading, mapping);
    const taken = rows.map((row) => checkRow(ours, datesToIso(ours, mapping?.dates ?? 'iso', row)));
    return { ...found, taken };
  } catch (error) {
    if (!(error instanceof NotSuchAFile)) throw error;
    return { ...found, headingProblem: error.message };
  }
}

self.onmessage = async ({ data }: MessageEvent<PreviewRequest>) => {
  self.postMessage(await read(data));
};
