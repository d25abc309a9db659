/** The browser's worker that reads the first rows of a chosen file, as they would be taken. */
import { CsvReader } from '@/core/imports/csv-reader';
import { encodingOf } from '@/core/imports/encoding';
import { NotSuchAFile, checkRow, datesToIso, readHeading } from '@/core/imports/heading';
import { FILE_KIND_NAMES, columnNames, type FileKindName } from '@/core/imports/kinds';
import { NotACalendar, readCalendar } from '@/core/sessions/calendar-read';
import { guessKind, proposeMapping, type Mapping, type Proposal } from '@/core/imports/mapping';

export interface PreviewRequest {
  file: File;
  /** Null to have it guessed. */
  kind: FileKindName | null;
  /** Which column is what; null for our own headings. */
  mapping: Mapping | null;
  /** What a calendar is of: `DRY`, or `DRY/A`. */
  part?: string;
  /** Of a calendar's times that have none. */
  timezone: string;
}

/** A row as it would be taken, by our columns, or why it would not. Who and what it names is looked up later. */
export interface TakenRow {
  values: Record<string, string> | null;
  fault: { field: string; reason: string } | null;
}

export interface Preview {
  encoding: string;
  kind: FileKindName;
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
  /** Is it an iCalendar file, whose sessions are the rows? */
  isCalendar: boolean;
}

const HEAD = 256 * 1024;
const ROWS = 20;

/** The first sessions of a calendar, as they would be taken. */
async function readCalendarFile({ file, part, timezone }: PreviewRequest, nothing: Preview): Promise<Preview> {
  try {
    const [course, ...group] = part ? part.split('/') : [];
    const options = {
      ...(course && { course, group: group.join('/') }),
      zone: timezone,
      until: Number.MAX_SAFE_INTEGER,
    };
    const all = readCalendar(await file.text(), options).slice(0, ROWS) as unknown as Record<string, string>[];
    const heading = columnNames('sessions').filter((name) => name !== 'item_id');
    const rows = all.map((row) => heading.map((name) => row[name]));
    const ours = readHeading('sessions', heading);
    const taken = rows.map((row) => checkRow(ours, row));
    return { ...nothing, encoding: 'iCalendar', kind: 'sessions', heading, rows, taken, isCalendar: true };
  } catch (error) {
    if (!(error instanceof NotACalendar)) throw error;
    return { ...nothing, problem: error.message, isCalendar: true };
  }
}

async function read(request: PreviewRequest): Promise<Preview> {
  const { file, kind: asked, mapping } = request;
  const nothing: Preview = {
    encoding: '',
    kind: asked ?? FILE_KIND_NAMES[0],
    heading: [],
    rows: [],
    taken: [],
    proposal: null,
    problem: null,
    headingProblem: null,
    isCalendar: false,
  };
  if (file.size === 0) return { ...nothing, problem: 'The file is empty.' };
  const bytes = new Uint8Array(await file.slice(0, HEAD).arrayBuffer());
  const encoding = encodingOf(bytes, file.size > HEAD);
  if (encoding === 'binary') return { ...nothing, problem: 'This is not a text file.' };
  if (/^\uFEFF?\s*BEGIN:VCALENDAR/i.test(new TextDecoder().decode(bytes.subarray(0, 256))))
    return readCalendarFile(request, nothing);
  const reader = new CsvReader();
  const all = reader.push(new TextDecoder(encoding).decode(bytes, { stream: true }));
  if (file.size <= HEAD) all.push(...reader.finish());
  const [heading, ...rows] = all.slice(0, ROWS + 1).map((row) => row.cells);
  if (!heading) return { ...nothing, problem: 'The file holds nothing but blank lines.' };
  const kind = asked ?? guessKind(heading, rows);
  const found = { ...nothing, encoding, kind, heading, rows, proposal: proposeMapping(kind, heading, rows) };
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
