/** Files that come in: stored, opened, recognised, and put in the queue. */
import { randomUUID } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { rm, stat } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { IsIn, IsOptional, MaxLength } from 'class-validator';
import type { Found } from '@/core/imports/foreign/plan';
import { NotSuchAFile } from '@/core/imports/heading';
import { FILE_KIND_NAMES, type FileKindName } from '@/core/imports/kinds';
import { DATE_ORDERS, type DateOrder, type Mapping } from '@/core/imports/mapping';
import { planOf, recogniseFile, type LikelyKind, type Missing } from '@/core/imports/recognise-file';
import { IsInstant, IsZone } from '@/core/imports/validators';
import { parseInstant } from '@/core/time/instant';
import { findSegment } from '@/data/courses/segments';
import { withRaw } from '@/data/db';
import { addRun } from '@/data/imports/import-runs';
import { courseByText } from '@/data/imports/settle';
import type { Viewer } from '@/data/scope';
import { findSession } from '@/data/sessions/sessions';
import { InvalidInput, readInput, type Values } from '../request/input';
import type { Runtime } from '../runtime';
import { isCalendar } from './calendar-file';
import { tablesOf, type FoundTable } from './containers/tables';
import { mappingFor } from './mapping';
import { readHead } from './read-file';
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
  /** Which of day and month comes first. */
  @IsOptional() @IsIn(DATE_ORDERS, { message: `is not one of ${DATE_ORDERS.join(', ')}` }) dates?: DateOrder;
}

/** A file that cannot be taken before somebody says what it is, or something of it. */
export class NotRecognised extends InvalidInput {
  override name = 'NotRecognised';
  override readonly more: { kinds: LikelyKind[]; missing: string[] };

  /** @param kinds what it could be, with how sure that is */
  constructor(kinds: LikelyKind[], missing: (Missing | 'kind')[], message: string) {
    super(missing.map((field) => ({ field, message })));
    this.more = { kinds, missing };
  }
}

/** What an import is begun with. */
type NewRun = Parameters<typeof addRun>[1];

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
  const request = readInput(ImportRequest, values);
  await checkParts(runtime, viewer, request);
  const { kind } = request;
  const mapping =
    kind === AUTO ? null : await mappingFor(runtime.db, viewer, request.source ?? 'files', kind, request.mapping);
  const name = randomUUID();
  const path = incomingPath(runtime, { path: name });
  const content = body === null ? Readable.from([]) : body instanceof Readable ? body : Readable.fromWeb(body as never);
  const stored = new Set<string>([name]);
  try {
    await pipeline(content, limited, createWriteStream(path));
    const tables = await openTables(runtime, request, name);
    for (const table of tables) stored.add(table.path);
    const runs: NewRun[] = [];
    for (const table of tables) {
      const { size } = await stat(join(dirname(path), table.path));
      const common = {
        source: request.source ?? 'files',
        timezone: request.timezone ?? mapping?.timezone ?? runtime.zone,
        session: request.session ?? null,
        part: request.part ?? null,
        file_name: table.name,
        path: table.path,
        size,
        created_at: runtime.clock.now(),
        staff_id: viewer.staffId || null,
        notes: JSON.stringify(table.notes),
      };
      try {
        runs.push({ ...common, ...(await howToRead(runtime, request, mapping, table)) });
      } catch (error) {
        // Of several tables, those that can be read are taken, and the others say why they were not.
        const isOneOfSeveral = tables.length > 1 && (error instanceof NotRecognised || error instanceof NotSuchAFile);
        if (!isOneOfSeveral) throw error;
        const failed = { state: 'failed' as const, error: error.message, finished_at: runtime.clock.now() };
        runs.push({ ...common, kind: 'access-log', mapping: null, ...failed });
      }
    }
    if (runs.length > 1 && runs.every(({ state }) => state === 'failed'))
      throw new NotRecognised([], ['kind'], `is not known: ${runs[0].error}`);
    const kept = new Set<string>(runs.flatMap((run) => (run.state === 'failed' ? [] : [run.path])));
    for (const one of stored) if (!kept.has(one)) await rm(join(dirname(path), one), { force: true });
    const ids: number[] = [];
    for (const run of inOrder(runs)) ids.push(await addRun(runtime.db, run));
    return ids;
  } catch (error) {
    for (const one of stored) await rm(join(dirname(path), one), { force: true });
    if (error instanceof NotSuchAFile) throw new NotRecognised([], ['kind'], `is not known. ${error.message}`);
    throw error;
  }
}

/** What makes people and items known comes before what happened to them; a list of people before what only names them. */
const ORDER: readonly FileKindName[] = ['outline', 'roster', 'staff', 'sessions', 'participants'];

function inOrder(runs: readonly NewRun[]): NewRun[] {
  const rank = ({ kind }: NewRun) => (ORDER.includes(kind) ? ORDER.indexOf(kind) : ORDER.length);
  return [...runs].sort((a, b) => rank(a) - rank(b));
}

async function openTables(runtime: Runtime, request: ImportRequest, name: string): Promise<FoundTable[]> {
  const folder = dirname(incomingPath(runtime, { path: name }));
  const fileName = request.file_name ?? `${request.kind}.csv`;
  return (await tablesOf(folder, name, fileName)) ?? [{ name: fileName, path: name, notes: [] }];
}

/** How a table is read: as a file of ours, by a mapping, or by a plan. @throws NotRecognised, NotSuchAFile */
async function howToRead(
  runtime: Runtime,
  request: ImportRequest,
  mapping: Mapping | null,
  table: FoundTable,
): Promise<Pick<NewRun, 'kind' | 'mapping' | 'plan' | 'notes'>> {
  const { kind } = request;
  const isOfOthers = kind === 'participants' || kind === 'gradebook' || kind === 'completion';
  if (kind !== AUTO && !isOfOthers) return { kind, mapping: mapping && JSON.stringify(mapping) };
  const path = incomingPath(runtime, table);
  if (await isCalendar(path)) return { kind: 'sessions', mapping: null };
  const { rows, delimiter } = await readHead(path);
  const recognition = recogniseFile(rows, delimiter, kind === AUTO ? null : kind);
  if (recognition.how === 'unknown') {
    throw new NotRecognised(
      recognition.kinds,
      ['kind'],
      'is not known: there is no heading in it that names a person, or nothing is told of them. Say which kind of file it is.',
    );
  }
  if (recognition.how === 'ours') {
    const timezone = request.timezone ?? runtime.zone;
    return {
      kind: recognition.kinds[0].kind,
      mapping: recognition.mapping && JSON.stringify({ ...recognition.mapping, timezone }),
    };
  }
  return planned(runtime, request, recognition.found, recognition.kinds, table);
}

async function planned(
  { db, clock, zone }: Runtime,
  request: ImportRequest,
  found: Found,
  kinds: LikelyKind[],
  table: FoundTable,
): Promise<Pick<NewRun, 'kind' | 'mapping' | 'plan' | 'notes'>> {
  const timezone = request.timezone ?? zone;
  const madeAt = request.made_at ? parseInstant(request.made_at, timezone)! : clock.now();
  const course = request.course || (await courseInPreamble(db, found));
  const said = { course, session: request.session, madeAt, create: request.create === 'yes', dates: request.dates };
  const { plan, missing } = planOf(found, said);
  if (missing.length > 0) {
    const words = {
      course: 'is not named in it: say which course it is of',
      dates: 'could be either way round: say whether the day or the month comes first',
      session: 'is not known: say which session it is of',
    };
    throw new NotRecognised(kinds, missing, words[missing[0]]);
  }
  const { kind, roles } = found.recognised;
  const isByAge = kind === 'participants' && roles.includes('last_access') && !request.made_at;
  const notes = isByAge
    ? [...table.notes, `Ages are counted back from ${new Date(madeAt).toISOString()}, when it came.`]
    : table.notes;
  return { kind, mapping: null, plan: JSON.stringify(plan), notes: JSON.stringify(notes) };
}

/** A course that is known and that a file speaks of above its table; null for none, or several. */
async function courseInPreamble(db: Runtime['db'], { head, recognised }: Found): Promise<string | null> {
  if (recognised.roles.includes('course')) return null;
  const said = head.preamble.flatMap(({ name, value }) => [value, ...(name === null ? [] : [name])]);
  return withRaw(db, (raw) => {
    for (const text of said) {
      const words = text.split(/\s+/);
      // The longest run of words that is a course's code or title: "Activity of Hatchery Technician".
      for (let length = words.length; length > 0; length -= 1)
        for (let from = 0; from + length <= words.length; from += 1) {
          const found = courseByText(raw, words.slice(from, from + length).join(' '));
          if (found) return found.code;
        }
    }
    return null;
  });
}

/** @throws InvalidInput for a session or a course that is not there */
async function checkParts(
  { db }: Runtime,
  viewer: Viewer,
  { session, part, course, create }: ImportRequest,
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
