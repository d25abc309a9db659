/** How a file of another system is read: what was found in its first rows, and what somebody has said of it. */
import { delimiterOf } from '../csv-reader';
import { foldHeading } from '../heading-name';
import { dateOrderOf, type DateOrder } from '../mapping';
import { KINDS_OF_OTHERS, recognise, type ForeignKind, type ItemColumn, type Recognised } from './recognise';
import type { ColumnRole } from './roles';
import { dateInHeading } from './register';
import { findTable, rowsOfTable, type TableHead } from './table';

export interface Plan {
  kind: ForeignKind;
  delimiter: string;
  /** Headings as they stand: a file that has the same is read the same way. */
  heading: string[];
  /** Rows above the first of data; blank ones do not count. */
  bodyFrom: number;
  roles: (ColumnRole | null)[];
  items: ItemColumn[];
  dates: DateOrder;
  /** When the file was made, epoch ms: ages count back from it, and what has no date of its own is of then. */
  madeAt: number;
  /** The course of rows that name none: its code or title; null for none. */
  course: string | null;
  /** Whether learners, enrolments, courses and items that nobody knows yet are made. */
  create: boolean;
  /** The meeting that a list of who was there is of, where its rows do not say. */
  meeting: Meeting | null;
  /** Is progress a share from 0 to 1, and not in per cent? */
  isShare?: boolean;
  /** Items that somebody has said texts of the file are, by the text: their ids. */
  itemsSaid?: Readonly<Record<string, string>>;
}

/** A meeting, by the session's id or by when it began. */
interface Meeting {
  sessionId: string | null;
  title: string;
  /** As the file writes it, in ISO 8601; null where it does not say. */
  startsAt: string | null;
}

export function isForeignKind(kind: string): kind is ForeignKind {
  return (KINDS_OF_OTHERS as readonly string[]).includes(kind);
}

/** Columns whose cells are dates or times. */
const TIMES: readonly ColumnRole[] = [
  'time',
  'entered',
  'left',
  'last_access',
  'done_at',
  'enrolled_on',
  'submitted_at',
];

/** What the first rows of a file say, before anybody has said anything of it. */
export interface Found {
  head: TableHead;
  recognised: Recognised;
  delimiter: string;
  /** Null where day and month could be either way round. */
  dates: DateOrder | null;
}

/**
 * Reads the first rows of a file.
 *
 * @param rows without blank ones
 * @returns null where there is no table in it, or nobody in the table
 */
export function lookAt(
  rows: readonly (readonly string[])[],
  delimiter: string,
  kind: ForeignKind | null = null,
): Found | null {
  const head = findTable(rows.slice(0, 60));
  if (head === null) return null;
  const body = rowsOfTable(rows.slice(head.bodyFrom), rows[head.bodyFrom - (head.points ? 2 : 1)] ?? []);
  const recognised = recognise(head, body.slice(0, 200), kind);
  if (recognised === null) return null;
  const times = recognised.roles.flatMap((role, index) =>
    role !== null && TIMES.includes(role) ? body.map((row) => row[index] ?? '') : [],
  );
  if (recognised.kind === 'marks') times.push(...recognised.items.flatMap(({ title }) => dateInHeading(title) ?? []));
  const facts = head.preamble.map(({ value }) => value);
  const dates = dateOrderOf(times) ?? dateOrderOf([...times, ...facts]);
  return { head, recognised, delimiter, dates: times.length > 0 ? dates : (dateOrderOf(facts) ?? dates) };
}

/** The text of a file's first rows parted as most of its lines are. */
export function delimiterOfHead(text: string): string {
  return delimiterOf(text.split('\n').slice(0, 60).join('\n'));
}

const BEGAN =
  /\b(began|start|started|start time|beginn|begonnen|debut|commence|inicio|inizio|begin|date|datum|time)\b/i;

/** When a meeting began, as its file says above the table; null where it does not. */
export function meetingOf({ preamble }: TableHead): { startsAt: string | null; title: string } {
  const named = preamble.find(({ name, value }) => name !== null && BEGAN.test(name) && /\d/.test(value));
  const title =
    preamble.find(
      ({ name }) => name !== null && /^(meeting )?(title|topic|thema|titel|titre|titulo|titolo)$/i.test(name),
    ) ?? preamble.find(({ name }) => name === null);
  return { startsAt: named?.value ?? null, title: title?.value ?? '' };
}

/** A course that a file names above its table: "Course: Hatchery Technician". */
export function courseNamed({ preamble }: TableHead): string | null {
  const named = preamble.find(
    ({ name }) => name !== null && /^(course|kurs|cours|curso|corso|cursus|module)$/i.test(name),
  );
  return named?.value ?? null;
}

/** What tells a file's shape: two with the same are read alike. */
export function shapeOf(heading: readonly string[]): string {
  return JSON.stringify(heading.map(foldHeading));
}
