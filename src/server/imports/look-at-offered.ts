/** What would become of a file that was dropped: its columns, whom and what it names, and how many of its rows would be taken. */
import { likeTitles } from '@/core/imports/foreign/item-titles';
import { personInWords } from '@/core/imports/foreign/person-cells';
import type { Plan } from '@/core/imports/foreign/plan';
import type { ColumnRole } from '@/core/imports/foreign/roles';
import { Survey } from '@/core/imports/foreign/survey';
import { rowsOfTable } from '@/core/imports/foreign/table';
import { openTranslator } from '@/core/imports/foreign/translate';
import { NotSuchAFile, checkRow, datesToIso, readHeading, type Heading } from '@/core/imports/heading';
import { foldHeading } from '@/core/imports/heading-name';
import { columnNames, type FileKindName } from '@/core/imports/kinds';
import type { DateOrder } from '@/core/imports/mapping';
import { readAsOwn, type LikelyKind, type Missing, type Recognition } from '@/core/imports/recognise-file';
import { parseInstant } from '@/core/time/instant';
import { sayInstant } from '@/core/time/words';
import { itemsToldOf } from '@/data/courses/items';
import { rawTransaction } from '@/data/db';
import type { ImportRun } from '@/data/imports/import-runs';
import type { SettledFile } from '@/data/imports/settle';
import { settleForeign } from '@/data/imports/take-foreign';
import type { Runtime } from '../runtime';
import { calendarRows } from './calendar-file';
import { MISSING_WORDS, lookAtFile, planFor, type FileChoices } from './how-to-read';
import { incomingPath } from './run';

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

const EXAMPLES = 3;
const NAMED = 12;
const SESSIONS_SHOWN = 5;
/** Bytes of a file that are looked at. */
const HEAD = 2 * 1024 ** 2;

/** Looks at a file that was dropped: nothing of it is taken. */
export async function lookAtOffered(runtime: Runtime, run: ImportRun): Promise<OfferedFile> {
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
