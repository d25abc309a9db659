/** Files that were dropped on the page: looked at, and taken when somebody has seen what would become of them. */
import { rm } from 'node:fs/promises';
import type { Readable } from 'node:stream';
import { IsIn, IsOptional, MaxLength } from 'class-validator';
import { likeTitles } from '@/core/imports/foreign/item-titles';
import { openTranslator } from '@/core/imports/foreign/translate';
import { shapeOf, type Plan } from '@/core/imports/foreign/plan';
import type { ColumnRole } from '@/core/imports/foreign/roles';
import { Survey } from '@/core/imports/foreign/survey';
import { rowsOfTable } from '@/core/imports/foreign/table';
import { personInWords } from '@/core/imports/foreign/person-cells';
import { NotSuchAFile, checkRow, datesToIso, readHeading, type Heading } from '@/core/imports/heading';
import { foldHeading } from '@/core/imports/heading-name';
import { FILE_KIND_NAMES, columnNames, type FileKindName } from '@/core/imports/kinds';
import { DATE_ORDERS, type DateOrder } from '@/core/imports/mapping';
import { readAsOwn, type LikelyKind, type Missing, type Recognition } from '@/core/imports/recognise-file';
import { IsInstant } from '@/core/imports/validators';
import { parseInstant } from '@/core/time/instant';
import { sayCount, sayInstant } from '@/core/time/words';
import { addAudit } from '@/data/audit';
import { itemsToldOf } from '@/data/courses/items';
import { rawTransaction, withRaw, writing } from '@/data/db';
import { addRun, findRun, offeredRuns, removeRun, setPlan, setSaid, type ImportRun } from '@/data/imports/import-runs';
import { findShape, rememberShape, forgetShape as removeShape } from '@/data/imports/remembered-shapes';
import type { SettledFile } from '@/data/imports/settle';
import { settleForeign } from '@/data/imports/take-foreign';
import { hasAnyLearner } from '@/data/people/roster';
import type { Viewer } from '@/data/scope';
import { NotFound, fields, readInput, type Values } from '../request/input';
import { requireLead } from '../request/lead';
import type { Runtime } from '../runtime';
import {
  MISSING_WORDS,
  headingOf,
  howToRead,
  checkParts,
  inOrder,
  lookAtFile,
  planFor,
  storeFile,
  type FileChoices,
  type NewRun,
} from './receive';
import { calendarRows } from './calendar-file';
import { incomingPath } from './run';

/** Stores a file for somebody to look at; leads alone. Returns the numbers of its tables. @throws InvalidInput */
export async function offerFile(
  runtime: Runtime,
  viewer: Viewer,
  values: Values,
  body: ReadableStream<Uint8Array> | Readable | null,
): Promise<number[]> {
  requireLead(viewer);
  const { request, tables, begin } = await storeFile(runtime, viewer, { ...values, kind: 'auto' }, body);
  // An empty installation has nobody to know: what is missing is made, unless somebody says otherwise.
  const create = !(await withRaw(runtime.db, hasAnyLearner));
  const choices: FileChoices = {
    ...{ kind: null, course: request.course ?? null, session: null, create, madeAt: null, dates: null },
    timezone: request.timezone ?? runtime.zone,
    isOffered: true,
  };
  const ids: number[] = [];
  for (const table of tables) {
    const settled = await settledAs(runtime, request.source ?? 'files', choices, table.path);
    const run = {
      ...(await begin(table)),
      kind: 'participants' as const,
      mapping: null,
      plan: JSON.stringify(settled),
    };
    ids.push(await addRun(runtime.db, { ...run, state: 'offered' }));
  }
  return ids;
}

/** What was settled of files of the same shape before, else what is said of this one. */
async function settledAs(runtime: Runtime, source: string, choices: FileChoices, path: string): Promise<FileChoices> {
  try {
    const looked = await lookAtFile(runtime, choices, { path });
    const settled = await findShape<FileChoices>(runtime.db, source, shapeOf(headingOf(looked)));
    return settled ? { ...settled, madeAt: null, course: choices.course ?? settled.course } : choices;
  } catch (error) {
    if (error instanceof NotSuchAFile) return choices;
    throw error;
  }
}

/** A column as it would be read. */
export interface OfferedColumn {
  index: number;
  heading: string;
  /** What it is about; of one of our own kinds our column, or nothing. */
  role: ColumnRole | 'item column' | 'nothing' | (string & {});
  why: 'total' | 'not understood' | 'empty' | 'date' | null;
  examples: string[];
}

/** An item of a course, by its id. */
interface ItemChoice {
  id: string;
  title: string;
}

/** What would become of a file. */
export interface OfferedFile {
  id: number;
  name: string;
  size: number;
  choices: FileChoices;
  kind: FileKindName | null;
  kinds: LikelyKind[];
  /** Why it cannot be taken at all; null where it can. */
  problem: string | null;
  missing: { field: Missing | 'columns'; says: string }[];
  /** Of one of our own kinds: the columns that it may have; null for another system's. */
  ownColumns: string[] | null;
  isCalendar: boolean;
  source: string;
  part: string | null;
  course: string | null;
  /** Said above its table. */
  facts: string[];
  columns: OfferedColumn[];
  /** The first time in it, in words to be checked; null for none. */
  dates: DateOrder | null;
  example: { cell: string; at: number } | null;
  hasAges: boolean;
  cameAt: number;
  counts: { rows: number; taken: number; waiting: number; unreadable: number } | null;
  /** Were only the first rows of a long file counted? */
  isHeadOnly: boolean;
  /** Who and what would be made. */
  made: SettledFile['made'] | null;
  unknownPeople: string[];
  /** Texts that no item of its course is called by, with what each may be and what was said of it. */
  unknownItems: { title: string; likely: ItemChoice[]; said: string | null }[];
  /** Items of the course that they may be. */
  courseItems: ItemChoice[];
  faults: string[];
  notes: string[];
}

/** Every file that waits for somebody to look at it. */
export async function offeredFiles(runtime: Runtime, viewer: Viewer): Promise<OfferedFile[]> {
  requireLead(viewer);
  const files: OfferedFile[] = [];
  for (const run of await offeredRuns(runtime.db)) files.push(await lookAtOffered(runtime, run));
  return files;
}

const EXAMPLES = 3;
const NAMED = 12;
const SESSIONS_SHOWN = 5;
/** Bytes of a file that are looked at. */
const HEAD = 2 * 1024 ** 2;

async function lookAtOffered(runtime: Runtime, run: ImportRun): Promise<OfferedFile> {
  const choices: FileChoices = JSON.parse(run.plan!);
  const nothing: OfferedFile = {
    ...{ id: run.id, name: run.file_name, size: run.size, choices, kind: choices.kind, kinds: [], problem: null },
    ...{
      missing: [],
      course: null,
      facts: [],
      columns: [],
      ownColumns: null,
      isCalendar: false,
      source: run.source,
      part: run.part,
      dates: null,
      example: null,
      hasAges: false,
      counts: null,
      cameAt: run.created_at,
    },
    ...{
      isHeadOnly: run.size > HEAD,
      made: null,
      unknownPeople: [],
      unknownItems: [],
      courseItems: [],
      faults: [],
      notes: JSON.parse(run.notes),
    },
  };
  try {
    const { recognition, head, isCalendar } = await lookAtFile(runtime, choices, run);
    if (isCalendar) return { ...nothing, ...(await lookAtCalendar(runtime, run)) };
    const { kinds } = recognition;
    if (recognition.how === 'ours' || (recognition.how === 'unknown' && choices.kind !== null)) {
      const kind = choices.kind ?? kinds[0].kind;
      return { ...nothing, kind, kinds, ...lookAsOwn(kind, choices, recognition, head.rows) };
    }
    if (recognition.how === 'unknown') {
      const problem = 'Nobody is named in it, or nothing is told of them. Say what it is, or leave it out.';
      return { ...nothing, kinds, problem };
    }
    const { plan, missing } = await planFor(runtime, choices, recognition.found);
    const body = rowsOfTable(head.rows.slice(plan.bodyFrom), plan.heading).map((row) => [...row]);
    const file = {
      ...nothing,
      kind: plan.kind,
      kinds,
      course: plan.course,
      dates: choices.dates ?? recognition.found.dates,
    };
    return {
      ...file,
      missing: missing.map((field) => ({ field, says: MISSING_WORDS[field] })),
      facts: recognition.found.head.preamble.map(({ name, value }) => (name === null ? value : `${name}: ${value}`)),
      columns: columnsOf(plan, recognition.found.recognised.leftOut, body),
      hasAges: plan.kind === 'participants' && plan.roles.includes('last_access'),
      ...(missing.length === 0 && (await dryRun(runtime, plan, body, choices.timezone))),
    };
  } catch (error) {
    if (error instanceof NotSuchAFile) return { ...nothing, problem: error.message };
    throw error;
  }
}

/** What would become of a calendar: its first sessions, and how many there are. */
async function lookAtCalendar(runtime: Runtime, run: ImportRun): Promise<Partial<OfferedFile>> {
  const rows = await calendarRows(runtime, run, incomingPath(runtime, run));
  const homeless = rows.filter(({ course }) => course === '').length;
  const shown = rows.slice(0, SESSIONS_SHOWN).map(({ title, course, group, starts_at }) => {
    const at = parseInstant(starts_at, run.timezone);
    const of = course === '' ? 'of no course' : [course, group].filter(Boolean).join('/');
    return `${at === null ? starts_at : sayInstant(at, runtime.zone, runtime.clock.now())}: ${title}, ${of}`;
  });
  return {
    ...{ kind: 'sessions', kinds: [{ kind: 'sessions', sure: 1 }], isCalendar: true },
    counts: { rows: rows.length, taken: rows.length - homeless, waiting: 0, unreadable: homeless },
    faults: homeless > 0 ? ['Some events name no course: say which one the calendar is of.'] : [],
    notes: [...(JSON.parse(run.notes) as string[]), ...shown],
  };
}

/** What would become of a file of one of our own kinds. */
function lookAsOwn(
  kind: FileKindName,
  choices: FileChoices,
  recognition: Recognition,
  head: readonly (readonly string[])[],
): Pick<OfferedFile, 'columns' | 'ownColumns' | 'missing' | 'dates'> &
  Partial<Pick<OfferedFile, 'counts' | 'faults' | 'example'>> {
  const [heading = [], ...rows] = head;
  const { mapping, lacks } = readAsOwn(kind, recognition, head, choices.mapping);
  const ours = columnNames(kind);
  const dates = choices.dates ?? (mapping === null ? 'iso' : mapping.dates);
  const ownOf = (name: string) => (mapping === null ? foldHeading(name) : (mapping.columns[foldHeading(name)] ?? ''));
  const columns = heading.map((name, index): OfferedColumn => ({
    index,
    heading: name,
    role: ours.includes(ownOf(name)) ? ownOf(name) : 'nothing',
    why: null,
    examples: rows.flatMap((row) => (row[index] ?? '').trim() || []).slice(0, EXAMPLES),
  }));
  const missing = [
    ...(lacks.length > 0 ? [{ field: 'columns' as const, says: `do not say ${lacks.join(', ')}` }] : []),
    ...(dates === null ? [{ field: 'dates' as const, says: MISSING_WORDS.dates }] : []),
  ];
  const looked = { columns, ownColumns: ours, missing, dates };
  if (missing.length > 0 || dates === null) return looked;
  const read = readHeading(kind, heading, mapping && { columns: mapping.columns, dates, timezone: choices.timezone });
  const iso = rows.map((row) => datesToIso(read, dates, row));
  const faults = iso.flatMap((row) => checkRow(read, row).fault ?? []);
  return {
    ...looked,
    counts: { rows: rows.length, taken: rows.length - faults.length, waiting: 0, unreadable: faults.length },
    faults: wordsOf(faults),
    example: exampleIn(read, rows, iso, choices.timezone),
  };
}

/** The first time in a file, as it is read. */
function exampleIn(
  { columns }: Heading,
  rows: readonly (readonly string[])[],
  iso: readonly (readonly string[])[],
  timezone: string,
): OfferedFile['example'] {
  for (const { index } of columns.filter(({ isTime }) => isTime))
    for (const [line, row] of iso.entries()) {
      const at = parseInstant((row[index] ?? '').trim(), timezone);
      if (at !== null) return { cell: rows[line][index], at };
    }
  return null;
}

function columnsOf(
  { heading, roles, items }: Plan,
  leftOut: readonly { index: number; why: OfferedColumn['why'] }[],
  body: readonly string[][],
): OfferedColumn[] {
  return heading.map((name, index) => ({
    index,
    heading: name,
    role: roles[index] ?? (items.some((item) => item.index === index) ? 'item column' : 'nothing'),
    why: items.some(({ dateIndex }) => dateIndex === index)
      ? 'date'
      : (leftOut.find((one) => one.index === index)?.why ?? null),
    examples: body.flatMap((row) => (row[index] ?? '').trim() || []).slice(0, EXAMPLES),
  }));
}

/** Is thrown to take back what was settled for a look. */
class OnlyLooking extends Error {}

/** What would come of the rows: settled as if they were taken, and taken back. */
async function dryRun(
  { db, clock, zone }: Runtime,
  plan: Plan,
  body: readonly string[][],
  timezone: string,
): Promise<Omit<Partial<OfferedFile>, 'missing'>> {
  const survey = new Survey(plan);
  for (const cells of body) survey.add(cells);
  let settled: SettledFile | null = null;
  await rawTransaction(db, (raw) => {
    settled = settleForeign(raw, plan, survey, { runId: null, timezone, zone, now: clock.now() });
    throw new OnlyLooking();
  }).catch((error: unknown) => {
    if (!(error instanceof OnlyLooking)) throw error;
  });
  const known = settled! as SettledFile;
  const translate = openTranslator(plan, known, timezone);
  const counts = { rows: 0, taken: 0, waiting: 0, unreadable: 0 };
  const faults: { field: string; reason: string }[] = [];
  const unknown = new Set<string>();
  let example: OfferedFile['example'] = null;
  const timeIndex = plan.roles.findIndex((role) => role === 'time' || role === 'entered');
  for (const cells of body) {
    const read = translate(cells);
    if (read === null) continue;
    counts.rows += 1;
    if (read.waits) {
      counts.waiting += 1;
      if (unknown.size < NAMED) unknown.add(personInWords(read.waits.person));
    } else if (read.rows.length === 0 && read.fault) counts.unreadable += 1;
    else counts.taken += 1;
    if (read.fault && faults.length < 1000) faults.push(read.fault);
    if (example === null && timeIndex >= 0 && read.rows.length > 0) {
      const at = parseInstant(read.rows[0][plan.kind === 'presence' ? 3 : 0], timezone);
      if (at !== null) example = { cell: cells[timeIndex], at };
    }
  }
  const items = plan.course === null ? [] : await itemsToldOf(db, known.course(plan.course));
  const said = Object.entries(plan.itemsSaid ?? {});
  const unknownItems = [
    ...said.map(([title, id]) => ({ title, likely: [], said: id })),
    ...known.unknownItems.slice(0, NAMED).map((title) => ({ title, likely: likeTitles(title, items), said: null })),
  ];
  return {
    ...{ counts, made: known.made, unknownPeople: [...unknown], faults: wordsOf(faults), example },
    // Where a course has no items yet there is nothing that they could be.
    ...(items.length > 0 && { unknownItems, courseItems: items }),
  };
}

/** The commonest faults, with how often they stand in a file. */
function wordsOf(faults: readonly { field: string; reason: string }[]): string[] {
  const count = new Map<string, number>();
  for (const { field, reason } of faults) {
    const words = /^(there is|more than) /.test(reason) ? reason : `${field} ${reason}`.trim();
    count.set(words, (count.get(words) ?? 0) + 1);
  }
  return [...count]
    .sort((a, b) => b[1] - a[1])
    .slice(0, 5)
    .map(([words, times]) => (times > 1 ? `${words} (${times} times)` : words));
}

class ChoicesInput {
  @IsOptional() @MaxLength(100, { message: 'is longer than 100 characters' }) source?: string;
  @IsOptional() @MaxLength(400, { message: 'is longer than 400 characters' }) part?: string;
  @IsOptional() @IsIn(FILE_KIND_NAMES, { message: `is not one of ${FILE_KIND_NAMES.join(', ')}` }) kind?: FileKindName;
  @IsOptional() @MaxLength(200, { message: 'is longer than 200 characters' }) course?: string;
  @IsOptional() @MaxLength(200, { message: 'is longer than 200 characters' }) session?: string;
  @IsOptional() @IsIn(['yes', 'no'], { message: 'is not one of yes, no' }) create?: 'yes' | 'no';
  @IsOptional() @IsInstant() made_at?: string;
  @IsOptional() @IsIn(DATE_ORDERS, { message: `is not one of ${DATE_ORDERS.join(', ')}` }) dates?: DateOrder;
}

async function requireOffered({ db }: Runtime, viewer: Viewer, id: number): Promise<ImportRun> {
  requireLead(viewer);
  const run = Number.isInteger(id) ? await findRun(db, id) : null;
  if (run?.state !== 'offered') throw new NotFound('No such file');
  return run;
}

/** Says something of a file, or of one of its columns; what is left out stays. @throws InvalidInput, NotFound */
export async function chooseForFile(runtime: Runtime, viewer: Viewer, id: number, values: Values): Promise<void> {
  const run = await requireOffered(runtime, viewer, id);
  const input = readInput(ChoicesInput, values);
  const before: FileChoices = JSON.parse(run.plan!);
  const said = (name: keyof ChoicesInput) => name in fields(values);
  const after: FileChoices = {
    ...before,
    ...(said('kind') && { kind: input.kind ?? null, roles: undefined, mapping: undefined }),
    ...(said('course') && { course: input.course || null }),
    ...(said('session') && { session: input.session || null }),
    ...(said('create') && { create: input.create === 'yes' }),
    ...(said('made_at') && { madeAt: input.made_at ? parseInstant(input.made_at, before.timezone) : null }),
    ...(said('dates') && { dates: input.dates ?? null }),
  };
  await setPlan(runtime.db, id, after);
  if (said('part')) {
    await checkParts(runtime, viewer, { part: input.part || undefined });
    await setSaid(runtime.db, id, { part: input.part || null });
  }
  if (said('source')) await setSaid(runtime.db, id, { source: input.source || 'files' });
  if (after.course === before.course) return;
  // What is said of one file holds for the others of which nothing has been said: they came together.
  for (const other of await offeredRuns(runtime.db)) {
    const choices: FileChoices = JSON.parse(other.plan!);
    if (choices.course === null || choices.course === before.course)
      await setPlan(runtime.db, other.id, { ...choices, course: after.course });
  }
}

/** Says which item of its course a text of a file is; an empty id for one that is new. @throws NotFound */
export async function chooseItem(runtime: Runtime, viewer: Viewer, id: number, title: string, itemId: string) {
  const run = await requireOffered(runtime, viewer, id);
  const before: FileChoices = JSON.parse(run.plan!);
  const itemsSaid = Object.fromEntries(
    Object.entries({ ...before.itemsSaid, [title]: itemId }).filter(([, said]) => said !== ''),
  );
  await setPlan(runtime.db, id, { ...before, itemsSaid });
}

/** Says what a column is. @throws NotFound */
export async function chooseColumn(
  runtime: Runtime,
  viewer: Viewer,
  id: number,
  index: number,
  role: string,
): Promise<void> {
  const run = await requireOffered(runtime, viewer, id);
  const before: FileChoices = JSON.parse(run.plan!);
  const { recognition, head } = await lookAtFile(runtime, before, run);
  if (recognition.how === 'foreign') {
    await setPlan(runtime.db, id, { ...before, roles: { ...before.roles, [index]: role as ColumnRole } });
    return;
  }
  const heading = foldHeading(head.rows[0]?.[index] ?? '');
  await setPlan(runtime.db, id, {
    ...before,
    mapping: { ...before.mapping, [heading]: role === 'nothing' ? null : role },
  });
}

/** Takes every file that was looked at, in the order in which they are best taken. @throws NotRecognised for one of which something has to be said */
export async function takeOffered(runtime: Runtime, viewer: Viewer): Promise<number> {
  requireLead(viewer);
  const { db } = runtime;
  const offered = await offeredRuns(db);
  const runs: NewRun[] = [];
  for (const run of offered) {
    const choices: FileChoices = JSON.parse(run.plan!);
    const table = { path: run.path, notes: JSON.parse(run.notes) as string[] };
    const read = await howToRead(runtime, choices, null, table);
    const looked = await lookAtFile(runtime, choices, run);
    await rememberShape(db, run.source, shapeOf(headingOf(looked)), choices, runtime.clock.now());
    const { source, file_name, path, size, staff_id, part } = run;
    const common = {
      source,
      file_name,
      path,
      size,
      staff_id,
      part,
      timezone: choices.timezone,
      session: choices.session,
    };
    runs.push({ ...common, created_at: runtime.clock.now(), notes: run.notes, ...read });
  }
  const ids = new Map(offered.map(({ path, id }) => [path, id]));
  // Together, and each once: two may press at the same time, and whoever is killed between has taken all or none.
  return writing(db, async (trx) => {
    let taken = 0;
    for (const run of inOrder(runs)) {
      if (!(await removeRun(trx, ids.get(run.path)!))) continue;
      await addRun(trx, run);
      taken += 1;
    }
    return taken;
  });
}

/** Leaves a file out: nothing of it is taken. @throws NotFound */
export async function leaveOut(runtime: Runtime, viewer: Viewer, id: number): Promise<void> {
  const run = await requireOffered(runtime, viewer, id);
  await removeRun(runtime.db, run.id);
  await rm(incomingPath(runtime, run), { force: true });
}

/** Forgets what was settled of files with some headings: the next one is looked at anew. @throws NotFound */
export async function forgetShape(runtime: Runtime, viewer: Viewer, source: string, shape: string): Promise<void> {
  requireLead(viewer);
  const { db, clock } = runtime;
  if (!(await removeShape(db, source, shape))) throw new NotFound('No such file');
  const subject = `files from ${source}`;
  await addAudit(db, { at: clock.now(), staff_id: viewer.staffId, what: 'forgot a mapping', subject });
}

/** What was said of files of a shape, in words. */
export function sayShape(spec: string): string {
  const { kind, course, dates, create, mapping, roles }: Partial<FileChoices> = JSON.parse(spec);
  const columns = Object.keys(mapping ?? roles ?? {}).length;
  return [
    kind ?? 'as it is recognised',
    course ? `of ${course}` : null,
    dates ? dates.replace('_', ' ') : null,
    create ? 'what is missing is made' : null,
    columns > 0 ? `${sayCount(columns, 'column')} said by hand` : null,
  ]
    .filter(Boolean)
    .join(' · ');
}
