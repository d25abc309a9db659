/** Files that come in: stored, opened, recognised, and put in the queue. */
import { randomUUID } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { rm, stat } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { IsIn, IsOptional, MaxLength } from 'class-validator';
import { shapeOf } from '@/core/imports/foreign/plan';
import { NotSuchAFile } from '@/core/imports/heading';
import { FILE_KIND_NAMES, type FileKindName } from '@/core/imports/kinds';
import { DATE_ORDERS, type DateOrder } from '@/core/imports/mapping';
import { IsInstant, IsZone } from '@/core/imports/validators';
import { parseInstant } from '@/core/time/instant';
import { findSegment } from '@/data/courses/segments';
import { withRaw } from '@/data/db';
import { addRun } from '@/data/imports/import-runs';
import { findShape, nearestShape } from '@/data/imports/remembered-shapes';
import { courseByText } from '@/data/imports/settle';
import type { Viewer } from '@/data/scope';
import { findSession } from '@/data/sessions/sessions';
import { InvalidInput, readInput, type Values } from '../request/input';
import type { Runtime } from '../runtime';
import { tablesOf, type FoundTable } from './containers/tables';
import { mappingFor } from './mapping';
import { NotRecognised, headingOf, howToRead, lookAtFile, type FileChoices, type NewRun } from './how-to-read';
import { incomingPath } from './run';

/** Largest file taken, in bytes. */
const LARGEST_FILE = 2 * 1024 ** 3;

/** The kind of a file that has to be recognised. */
export const AUTO = 'auto';
const KINDS_ASKED = [AUTO, ...FILE_KIND_NAMES] as const;

/** What is said of a file that comes in. */
class ImportRequest {
  @IsIn(KINDS_ASKED, { message: `is not one of ${KINDS_ASKED.join(', ')}` }) kind!: FileKindName | typeof AUTO;
  @IsOptional() @MaxLength(100, { message: 'is longer than 100 characters' }) source?: string;
  @IsOptional() @IsZone() timezone?: string;
  @IsOptional() @MaxLength(255, { message: 'is longer than 255 characters' }) file_name?: string;
  /** Which column is what, as JSON: remembered for the source. Left out, the remembered one is used. */
  @IsOptional() @MaxLength(20_000, { message: 'is longer than 20,000 characters' }) mapping?: string;
  /** The session that a file of presence is of, by its id. */
  @IsOptional() @MaxLength(200, { message: 'is longer than 200 characters' }) session?: string;
  /** The course, and its group, that a calendar is of: `DRY`, or `DRY/A`. */
  @IsOptional() @MaxLength(400, { message: 'is longer than 400 characters' }) part?: string;
  /** The course of rows that name none, by its code or title. */
  @IsOptional() @MaxLength(200, { message: 'is longer than 200 characters' }) course?: string;
  /** Make learners, enrolments, courses and items that nobody has told of yet. */
  @IsOptional() @IsIn(['yes', 'no'], { message: 'is not one of yes, no' }) create?: 'yes' | 'no';
  /** When the file was made: ages count back from it. */
  @IsOptional() @IsInstant() made_at?: string;
  /** Take it only where files of its shape have been settled before, as they were. */
  @IsOptional() @IsIn(['known'], { message: 'is not known' }) only?: 'known';
  /** Which of day and month comes first. */
  @IsOptional() @IsIn(DATE_ORDERS, { message: `is not one of ${DATE_ORDERS.join(', ')}` }) dates?: DateOrder;
}

/** A file that has come in: its tables, each in the folder of incoming files, with what every import of it begins with. */
interface Stored {
  request: ImportRequest;
  tables: FoundTable[];
  /** What is common to the imports of its tables. */
  begin(table: FoundTable): Promise<Omit<NewRun, 'kind' | 'mapping'>>;
  /** Clears away what no import waits for. */
  keepOnly(paths: readonly string[]): Promise<void>;
}

/** Stores a file and opens it. @throws InvalidInput, NotRecognised for one that holds no table */
export async function storeFile(
  runtime: Runtime,
  viewer: Viewer,
  values: Values,
  body: ReadableStream<Uint8Array> | Readable | null,
): Promise<Stored> {
  const request = readInput(ImportRequest, values);
  await checkParts(runtime, viewer, request);
  const name = randomUUID();
  const folder = dirname(incomingPath(runtime, { path: name }));
  const content = body === null ? Readable.from([]) : body instanceof Readable ? body : Readable.fromWeb(body as never);
  const stored = new Set<string>([name]);
  const keepOnly = async (paths: readonly string[]) => {
    for (const path of stored) if (!paths.includes(path)) await rm(join(folder, path), { force: true });
  };
  try {
    await pipeline(content, limited, createWriteStream(join(folder, name)));
    const fileName = request.file_name ?? `${request.kind}.csv`;
    const tables = (await tablesOf(folder, name, fileName, runtime.clock.now())) ?? [
      { name: fileName, path: name, notes: [] },
    ];
    for (const { path } of tables) stored.add(path);
    const begin = async (table: FoundTable) => ({
      source: request.source ?? 'files',
      timezone: request.timezone ?? runtime.zone,
      session: request.session ?? null,
      part: request.part ?? null,
      file_name: table.name,
      path: table.path,
      size: (await stat(join(folder, table.path))).size,
      created_at: runtime.clock.now(),
      staff_id: viewer.staffId || null,
      notes: JSON.stringify(table.notes),
    });
    return { request, tables, begin, keepOnly };
  } catch (error) {
    await keepOnly([]);
    if (error instanceof NotSuchAFile) throw new NotRecognised([], ['kind'], `is not known. ${error.message}`);
    throw error;
  }
}

/**
 * Stores a file and puts what is in it in the queue: one import for each of its tables, in the order in which they are best
 * taken. Returns their numbers.
 * @throws InvalidInput, NotRecognised
 */
export async function receiveFile(
  runtime: Runtime,
  viewer: Viewer,
  values: Values,
  body: ReadableStream<Uint8Array> | Readable | null,
): Promise<number[]> {
  const { db, clock } = runtime;
  const { request, tables, begin, keepOnly } = await storeFile(runtime, viewer, values, body);
  try {
    const { kind, source = 'files' } = request;
    const mapping = kind === AUTO ? null : await mappingFor(db, viewer, source, kind, request.mapping);
    const runs: NewRun[] = [];
    for (const table of tables) {
      const common = await begin(table);
      if (mapping && !request.timezone) common.timezone = mapping.timezone;
      try {
        const choices = choicesOf(runtime, request);
        const settled = request.only ? await settledBefore(runtime, source, choices, table) : choices;
        runs.push({ ...common, ...(await howToRead(runtime, settled, mapping, table)) });
      } catch (error) {
        // Of several tables, those that can be read are taken, and the others say why they were not.
        const isOneOfSeveral = tables.length > 1 && (error instanceof NotRecognised || error instanceof NotSuchAFile);
        if (!isOneOfSeveral) throw error;
        const failed = { state: 'failed' as const, error: error.message, finished_at: clock.now() };
        runs.push({ ...common, kind: 'access-log', mapping: null, ...failed });
      }
    }
    if (runs.length > 1 && runs.every(({ state }) => state === 'failed'))
      throw new NotRecognised([], ['kind'], `is not known: ${runs[0].error}`);
    await keepOnly(runs.flatMap((run) => (run.state === 'failed' ? [] : [run.path])));
    const ids: number[] = [];
    for (const run of inOrder(runs)) ids.push(await addRun(db, run));
    return ids;
  } catch (error) {
    await keepOnly([]);
    if (error instanceof NotSuchAFile) throw new NotRecognised([], ['kind'], `is not known. ${error.message}`);
    throw error;
  }
}

function choicesOf({ zone }: Runtime, request: ImportRequest): FileChoices {
  const timezone = request.timezone ?? zone;
  return {
    kind: request.kind === AUTO ? null : request.kind,
    course: request.course ?? null,
    session: request.session ?? null,
    create: request.create === 'yes',
    madeAt: request.made_at ? parseInstant(request.made_at, timezone) : null,
    dates: request.dates ?? null,
    timezone,
  };
}

/** What makes people and items known comes before what happened to them; a list of people before what only names them. */
const ORDER: readonly FileKindName[] = ['outline', 'roster', 'staff', 'sessions', 'participants'];

export function inOrder(runs: readonly NewRun[]): NewRun[] {
  const rank = ({ kind }: NewRun) => (ORDER.includes(kind) ? ORDER.indexOf(kind) : ORDER.length);
  return [...runs].sort((a, b) => rank(a) - rank(b));
}

/** What was settled of files of the same shape. @throws NotRecognised where nothing was */
async function settledBefore(
  runtime: Runtime,
  source: string,
  choices: FileChoices,
  table: Pick<FoundTable, 'path'>,
): Promise<FileChoices> {
  const looked = await lookAtFile(runtime, choices, table);
  const { recognition } = looked;
  // Our own headings need no settling.
  if (looked.isCalendar || (recognition.how === 'ours' && recognition.mapping === null)) return choices;
  const shape = shapeOf(headingOf(looked));
  const settled = await findShape<FileChoices>(runtime.db, source, shape);
  if (settled) return { ...settled, madeAt: choices.madeAt };
  const nearest = await nearestShape(runtime.db, source, shape);
  const differs = nearest && [
    ...nearest.added.map((name) => `the column ${name} is new`),
    ...nearest.missing.map((name) => `the column ${name} is missing`),
  ];
  throw new NotRecognised(
    recognition.kinds,
    ['kind'],
    differs
      ? `has another shape than before: ${differs.join(', ')}. Drop it on the page once, so that it is seen what it is`
      : 'has a shape that nobody has settled yet. Drop it on the page once',
  );
}

/** @throws InvalidInput for a session or a course that is not there */
export async function checkParts(
  { db }: Pick<Runtime, 'db'>,
  viewer: Viewer,
  { session, part, course, create }: Partial<ImportRequest>,
): Promise<void> {
  if (session !== undefined && (await findSession(db, { viewer, segment: {} }, session)) === null) {
    throw new InvalidInput([{ field: 'session', message: `is not known: there is no session ${session}` }]);
  }
  if (course && create !== 'yes' && (await withRaw(db, (raw) => courseByText(raw, course))) === null) {
    throw new InvalidInput([
      {
        field: 'course',
        message: `is not known: there is no course ${course}. Have what is missing made, or bring in the outline first`,
      },
    ]);
  }
  if (part === undefined) return;
  const names = part.includes('/') ? { group: part } : { course: part };
  if ((await findSegment(db, viewer, names)) === null) {
    throw new InvalidInput([{ field: 'part', message: `is not known: there is no course or group ${part}` }]);
  }
}

async function* limited(chunks: AsyncIterable<Buffer>): AsyncGenerator<Buffer> {
  let size = 0;
  for await (const chunk of chunks) {
    size += chunk.length;
    if (size > LARGEST_FILE) throw new InvalidInput([{ field: 'file', message: 'is larger than 2 GB' }]);
    yield chunk;
  }
}
