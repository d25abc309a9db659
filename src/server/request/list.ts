/**
 * A list, declared once: its address, what it can be asked for, its columns and its reader. The parameters of its
 * links, the sentences of its filters, the controls that add them, its heads, files, API and documentation follow.
 */
import type { Readable } from 'node:stream';
import type { Viewer } from '@/data/scope';
import type { Runtime } from '../runtime';
import { asFile, fileResponse, type ExportFormat } from './exports';
import { fileFromThread } from './file-thread';
import type { GridSpec } from './grid';
import { InvalidInput, fieldsOf, type Values } from './input';
import type { ListQuery } from './list-query';
import { takeTurn } from './turns';
import { segmentNames } from './segment-names';

/** Parameters of a link, by their names. */
export type Params = Partial<Record<string, string>>;

export interface Choice {
  value: string;
  label: string;
}

/** As of when and where what is read is said. */
export interface At {
  now: number;
  zone: string;
}

/** How a filter is added on the page. */
type Control =
  | { as: 'count'; label: string; start: number }
  | { as: 'press'; label: string; value: string }
  | { as: 'presses'; label: string; values: readonly string[] }
  /** One of some: given here, or offered by the page under a name; `none` says what is without one. */
  | { as: 'choice'; label: string; choices: readonly Choice[] | string; none?: string };

interface FilterSpec {
  /** What it asks for, for whoever writes a program. */
  help: string;
  /** The filter as a sentence; what the page calls things by their ids is in `names`. */
  says?: (value: string, params: Params, names: Params) => string;
  control?: Control;
  /** Parameters that go when it is set, since they would be at odds with it. */
  replaces?: readonly string[];
  /** Parameters that go with it when it is taken away. */
  clears?: readonly string[];
  /** The other way round: what the link to it says, and its parameters. */
  turned?: { says: string; params: (params: Params) => Params };
  /** What the data layer is asked for by it, where that is a condition on what a list shows anyway. */
  where?: (value: never, at: At) => unknown;
}

const filters = new WeakMap<object, Map<string, FilterSpec>>();

/**
 * Makes a field of a list's query a filter.
 *
 * @example
 * class Query extends ListQuery {
 *   @Filter({ tells: 'quiet so many days', says: (days) => `Quiet ${days} days or more`,
 *     control: { as: 'count', label: 'Quiet, days or more', start: 7 } })
 *   @IsOptional() @AsCount('days', 9999) quiet?: number;
 * }
 */
export function Filter(spec: FilterSpec): PropertyDecorator {
  return (prototype, name) => {
    const filtersOfClass = filters.get(prototype) ?? new Map<string, FilterSpec>();
    filters.set(prototype, filtersOfClass.set(String(name), spec));
  };
}

/** The filters of a query class, those of its parents first. */
function filtersOf(query: new () => object): Map<string, FilterSpec> {
  const chain: object[] = [];
  for (let at = query.prototype; at; at = Object.getPrototypeOf(at)) chain.unshift(at);
  return new Map(chain.flatMap((at) => [...(filters.get(at) ?? [])]));
}

export interface Column<Row> {
  title: string;
  /** What the list is sorted by under this head; without one it is not. */
  sort?: string;
  /** What that order goes by, where it is a figure of a row: those without one come last. */
  value?: (row: Row) => number | null;
  /** What a line says of it on the page, where a line is made of texts. */
  says?: (row: Row, at: At) => string;
  /** How the page draws that text. */
  as?: 'gauge' | 'phone' | 'any direction';
  /** How it stands beside the names, where the page is a grid. */
  grid?: GridSpec<Row>;
  /** Its cells in a file and in the API, by their heading. */
  figures: Record<string, (row: Row, at: At) => unknown>;
  /** Stands in every file and needs no choosing. */
  isKey?: boolean;
}

interface Read<Row> extends At {
  rows: Row[];
  total: number;
  next: string | null;
  query: ListQuery;
}

export interface List<Row, Name extends string = string> {
  /** As the API, the shell and files call it. */
  name: string;
  /** Address in the API, where it is not the name. */
  api?: string;
  /** Address of its page. */
  path: string;
  query: new () => ListQuery;
  /** In the order of a file. */
  columns: Readonly<Record<Name, Column<Row>>>;
  /** Columns shown until somebody chooses; all of them where it is not said. */
  usual?: readonly Name[];
  /** Its file, where the list is too long to be held. */
  file?(runtime: Runtime, viewer: Viewer, values: Values, format: ExportFormat): Promise<Readable>;
  /** Figures that hold several things: in a table each has a column of its own, whichever there are. */
  spread?: {
    /** Headings that have no column of a table. */
    omits: readonly string[];
    of: (row: Row) => Record<string, unknown>;
  };
  /** A row as the page's rows are drawn from it: plain data, the same for the first and for those that come later. */
  line?: (row: Row, at: At) => unknown;
  /** Does it show drift? Then the API's answer waits while readings that it shows are made anew. */
  showsDrift?: boolean;
  /** The API's answer, where it is not a page of rows or a file of all. */
  answer?(runtime: Runtime, viewer: Viewer, values: Record<string, string>): Promise<Response>;
  /** What the API's answer gives beside its rows, such as what has to be known to read them. */
  beside?(runtime: Runtime, viewer: Viewer, values: Values): Promise<Record<string, unknown>>;
  /**
   * @param withTotal false where the number of all is not needed, which may be what takes the time
   * @throws InvalidInput, NotFound
   */
  read(runtime: Runtime, viewer: Viewer, values: Values, withTotal?: boolean): Promise<Read<Row>>;
}

/** What the data layer is asked for by the filters of a query that say so themselves. */
export function conditionsOf<Condition>(query: ListQuery, at: At): Condition[] {
  const values = query as unknown as Record<string, never>;
  return [...filtersOf(query.constructor as new () => object)].flatMap(([name, { where }]) =>
    where === undefined || values[name] === undefined ? [] : [where(values[name], at) as Condition],
  );
}

/** What a page keeps in its link beside the filters. */
const KEPT = ['in', 'as_of', 'sort', 'limit', 'columns', 'fold'] as const;
const OF_EVERY_LIST = ['limit', 'cursor', 'format'];

/** The parameters of a link that are the list's. */
export function listParams({ query }: Asking, params: Params): Params {
  const names = new Set([...KEPT, ...fieldsOf(query).filter((name) => !OF_EVERY_LIST.includes(name))]);
  return Object.fromEntries([...names].filter((name) => params[name]).map((name) => [name, params[name]]));
}

/** A list, as far as it can be asked for something. */
export type Asking = Pick<List<unknown>, 'query'>;

/** The same, as the list is read by. A course, group or organisation said in a filter goes before the bar's. */
export function askedOf({ query }: Asking, params: Params): Record<string, string> {
  const askedFields = fieldsOf(query)
    .filter((name) => !OF_EVERY_LIST.includes(name) && params[name])
    .map((name) => [name, params[name]!] as const);
  return { ...segmentNames(params.in), ...Object.fromEntries(askedFields) };
}

/** A filter as the page shows it. */
export interface Sentence {
  says: string;
  /** Parameters that go when it is cleared. */
  clears: string[];
  turned: { says: string; params: Params } | null;
}

/** The filters of a link, each as a sentence. */
export function sentencesOf<Row>({ query }: List<Row>, params: Params, names: Params = {}): Sentence[] {
  return [...filtersOf(query)].flatMap(([name, { says, clears = [], turned }]) => {
    const value = params[name];
    if (!value || !says) return [];
    const other = turned ? { says: turned.says, params: turned.params(params) } : null;
    return [{ says: says(value, params, names), clears: [name, ...clears], turned: other }];
  });
}

/** A control as the page draws it, its choices filled in. */
export type ShownControl = { name: string; replaces: string[] } & (
  Exclude<Control, { as: 'choice' }> | { as: 'choice'; label: string; choices: Choice[]; none?: string }
);

/** The controls that add filters; those that offer nothing are left out. */
export function controlsOf<Row>({ query }: List<Row>, offers: Record<string, readonly Choice[]>): ShownControl[] {
  return [...filtersOf(query)].flatMap(([name, { control, replaces = [] }]): ShownControl[] => {
    if (!control) return [];
    if (control.as !== 'choice') return [{ name, replaces: [...replaces], ...control }];
    const choices = typeof control.choices === 'string' ? (offers[control.choices] ?? []) : control.choices;
    return choices.length === 0 ? [] : [{ name, replaces: [...replaces], ...control, choices: [...choices] }];
  });
}

/** What a list can be sorted by, from its columns. */
export function sortsOf(columns: Readonly<Record<string, { title: string; sort?: string }>>): string[] {
  return Object.values(columns).flatMap(({ sort }) => (sort ? [sort] : []));
}

/** The figure that an order goes by: `rate` or `-rate`. @throws Error where no column is sorted by it */
export function valueOf<Row>(
  columns: Readonly<Record<string, { title: string; sort?: string; value?: (row: Row) => number | null }>>,
  sort: string,
): (row: Row) => number | null {
  const value = Object.values(columns).find((column) => column.sort === sort.replace('-', ''))?.value;
  if (!value) throw new Error(`No column is sorted by ${sort}`);
  return value;
}

/** Names of the columns that may be chosen: all but the keys. */
export function columnNames<Row, Name extends string>({ columns }: List<Row, Name>): Name[] {
  return (Object.keys(columns) as Name[]).filter((name) => !columns[name].isKey);
}

/** Columns read from a link or a setting, in the list's own order; the usual ones when it names none. */
export function readColumns<Row, Name extends string>(list: List<Row, Name>, text: string | null | undefined): Name[] {
  const wanted = (text ?? '').split(',');
  const named = columnNames(list).filter((name) => wanted.includes(name));
  if (named.length > 0) return named;
  return columnNames(list).filter((name) => list.usual?.includes(name) ?? true);
}

/** The columns of a file: the keys, and those that are chosen. */
type WithColumns<Row, Name extends string> = Pick<List<Row, Name>, 'columns'>;

function shownColumns<Row, Name extends string>({ columns }: WithColumns<Row, Name>, chosen?: readonly Name[]) {
  return (Object.keys(columns) as Name[])
    .filter((name) => columns[name].isKey || !chosen || chosen.includes(name))
    .map((name): Column<Row> => columns[name]);
}

/** Headings of a file, or fields of the API's answer. */
export function headingsOf<Row, Name extends string>(list: WithColumns<Row, Name>, chosen?: readonly Name[]): string[] {
  return shownColumns(list, chosen).flatMap(({ figures }) => Object.keys(figures));
}

/** A row as a file and the API give it. */
export function figuresOf<Row>(list: List<Row>, row: Row, at: At): Record<string, unknown> {
  const pairs = Object.values<Column<Row>>(list.columns).flatMap(({ figures }) => Object.entries(figures));
  return Object.fromEntries(pairs.map(([heading, of]) => [heading, of(row, at)]));
}

/** What a line says, by column, in the order of `columnNames`. */
export function cellsOf<Row>(columns: Readonly<Record<string, Column<Row>>>, row: Row, at: At): string[] {
  return Object.values(columns).flatMap(({ isKey, says }) => (isKey ? [] : [says?.(row, at) ?? '']));
}

/**
 * The list as a stream of a file, all pages; two at a time for each account, and in a thread of its own beside a server.
 * @throws InvalidInput, NotFound
 */
export async function listFile<Row, Name extends string>(
  list: List<Row, Name>,
  asker: { runtime: Runtime; viewer: Viewer },
  values: Values,
  format: ExportFormat,
  chosen?: readonly Name[],
): Promise<Readable> {
  const end = await takeTurn(asker.viewer.staffId);
  try {
    const { viewer } = asker;
    const stream =
      (await fileFromThread({ list: list.name, viewer, values, format, chosen })) ??
      (await fileHere(list, asker, values, format, chosen));
    return stream.once('close', end);
  } catch (error) {
    end();
    throw error;
  }
}

/** Columns that a sheet of a workbook can have (ECMA-376). */
const MOST_COLUMNS = 16_384;

/** The same in this thread. */
export async function fileHere<Row, Name extends string>(
  list: List<Row, Name>,
  { runtime, viewer }: { runtime: Runtime; viewer: Viewer },
  values: Values,
  format: ExportFormat,
  chosen?: readonly Name[],
): Promise<Readable> {
  if (list.file) return list.file(runtime, viewer, values, format);
  const read = await list.read(runtime, viewer, { ...values, format: format === 'json' ? 'csv' : format });
  const { spread } = list;
  const at = { now: read.now, zone: read.zone };
  const figures = (row: Row) => figuresOf(list, row, at);
  if (format === 'json' || !spread) return asFile(format, headingsOf(list, chosen), read.rows, figures);
  const fixed = headingsOf(list, chosen).filter((name) => !spread.omits.includes(name));
  const spreadOut = new Set<string>();
  for (const row of read.rows) for (const name of Object.keys(spread.of(row))) spreadOut.add(name);
  const columns = [...fixed, ...spreadOut];
  if (format === 'xlsx' && columns.length > MOST_COLUMNS) {
    const many = columns.length.toLocaleString('en-GB');
    throw new InvalidInput([
      { field: 'course', message: `is missing: a sheet cannot hold the ${many} columns of all of them` },
    ]);
  }
  return asFile(format, columns, read.rows, (row) => ({ ...figures(row), ...spread.of(row) }));
}

/** The API's answer: a page of the list, or all of it as a file. @throws InvalidInput, NotFound */
export async function listAnswer<Row>(
  list: List<Row>,
  asker: { runtime: Runtime; viewer: Viewer },
  values: Record<string, string>,
): Promise<Response> {
  if (list.answer) return list.answer(asker.runtime, asker.viewer, values);
  const { format } = values;
  if (format === 'csv' || format === 'xlsx')
    return fileResponse(await listFile(list, asker, values, format), list.name, format);
  const read = await list.read(asker.runtime, asker.viewer, values);
  const data = read.rows.map((row) => figuresOf(list, row, read));
  const beside = (await list.beside?.(asker.runtime, asker.viewer, values)) ?? {};
  return Response.json({ data, next: read.next, total: read.total, ...beside });
}

/** Rows asked for at a time as somebody scrolls. */
const ROWS_AT_ONCE = '100';

/** Later rows of a list, for a page that goes on: from the place after which they come. @throws InvalidInput, NotFound */
export async function laterRows<Row>(
  list: List<Row>,
  { runtime, viewer }: { runtime: Runtime; viewer: Viewer },
  params: Params,
): Promise<Response> {
  const values = { ...askedOf(list, params), limit: ROWS_AT_ONCE, cursor: params.cursor };
  const read = await list.read(runtime, viewer, values, false);
  return Response.json({ lines: read.rows.map((row) => list.line?.(row, read) ?? row), next: read.next });
}

/** What can be asked of a list and what it gives, as a part of a page of documentation. */
export function documentationOf<Row>(list: List<Row>): string {
  const asked = [...filtersOf(list.query)].map(([name, { help: help }]) => `| \`${name}\` | ${help} |`);
  const sorts = Object.values<Column<Row>>(list.columns).flatMap(({ sort }) => (sort ? [`\`${sort}\``] : []));
  return [
    `## ${list.name}`,
    `\`GET /api/v1/${list.api ?? list.name}\`, \`npm run lee -- export ${list.name}\`, and the page \`${list.path}\`.`,
    `| asked by | what it finds |\n|---|---|\n${asked.join('\n')}`,
    ...(sorts.length > 0 ? [`Sorted by ${sorts.join(', ')}; with \`-\` before it the other way round.`] : []),
    `Gives ${headingsOf(list)
      .map((heading) => `\`${heading}\``)
      .join(', ')}.`,
  ].join('\n\n');
}
