/** A report opened for somebody: whom it shows them, and under which heads. */
import { isFigure, type CellKind } from '@/core/reports/cells';
import { periodOfReport, type ReportDefinition } from '@/core/reports/definition';
import { without } from '@/core/without';
import { parseInstant } from '@/core/time/instant';
import { titlesOfItems } from '@/data/reports/items';
import { keptNumbers } from '@/data/people/learners';
import type { Viewer } from '@/data/scope';
import { asMark, listMarks } from '@/data/sessions/marks';
import type { DriftView } from '@/data/view';
import { findMatching } from '../people/learner-list';
import { InvalidInput, NotFound } from '../request/input';
import type { Runtime } from '../runtime';
import type { Averaged } from './averages';
import { columnNamed, fits, mayBeFor } from './columns';
import type { KeptFigures, Need, ReportColumn, ReportRow, RowTime } from './row';

/** A head of a report, with how a row's value under it is found. */
export interface ReportHead {
  name: string;
  title: string;
  kind: CellKind;
  says: string;
  of: (row: ReportRow, at: RowTime, averaged: Averaged | null) => unknown;
}

export interface OpenReport {
  definition: ReportDefinition;
  view: DriftView;
  status: 'active' | 'all';
  /** Learners in view, in the report's order. */
  ids: readonly number[];
  /** How many they are, where only the first were asked for. */
  learners: number;
  columns: readonly ReportColumn[];
  heads: readonly ReportHead[];
  needs: ReadonlySet<Need>;
  /** Figures whose averages are shown. */
  averaged: ReadonlySet<keyof KeptFigures>;
  period: { from?: number; to?: number };
  at: RowTime;
  /** What the report had and is no more: said beside it, and nothing else of it is lost. */
  gone: readonly string[];
}

/**
 * Opens a report as it stands now for whoever asks: what they may not see is not in it.
 *
 * @param isNew one that is being defined: whoever is named has to be there
 * @param first only the first so many learners, where no more are looked at
 * @throws InvalidInput naming what is not there, and the fields of a filter that are wrong
 */
export async function openReport(
  runtime: Runtime,
  viewer: Viewer,
  definition: ReportDefinition,
  { isNew = false, first }: { isNew?: boolean; first?: number } = {},
): Promise<OpenReport> {
  const { db, zone } = runtime;
  const gone: string[] = [];
  const { view, ids, total, status } = await whoseLearners(runtime, viewer, definition, { gone, first });
  const columns = definition.columns.flatMap((name) => {
    const column = columnNamed(name);
    const stays = column && fits(definition.per, column) && mayBeFor(definition.for, column);
    if (!stays) gone.push(`the column ${name}`);
    return stays ? [column] : [];
  });
  const titles = await titlesOfItems(db, definition.items ?? [], view);
  if (isNew) {
    const missing = (definition.items ?? []).find((name) => !titles.has(name));
    if (missing !== undefined) throw fault('items', `has no item or category ${missing}`);
  } else for (const name of definition.items ?? []) if (!titles.has(name)) gone.push(`the item ${name}`);
  const heads = columns.flatMap((column) => headsOf(column, definition, titles));
  const needs = new Set(columns.flatMap((column) => column.needs ?? []));
  if (definition.per === 'item') needs.add('work');
  if (definition.per === 'session') needs.add('sessions');
  if (definition.only === 'contacted') needs.add('contacts');
  const averages = definition.averages === undefined ? [] : columns.flatMap(({ averageOf }) => averageOf ?? []);
  const marks = (await listMarks(db, true)).map(asMark);
  return {
    definition,
    view,
    status,
    ids,
    learners: total,
    columns,
    heads,
    needs,
    averaged: new Set(definition.per === 'learner' ? [] : averages),
    period: periodOf(definition, view.now, zone),
    at: { now: view.now, zone, marks },
    gone,
  };
}

const fault = (field: string, message: string) => new InvalidInput([{ field, message }]);

/** The instants of a report's days; open where it has none. */
function periodOf({ period, from, to }: ReportDefinition, now: number, zone: string): { from?: number; to?: number } {
  if (period !== undefined) return periodOfReport(period, now, zone);
  return {
    from: from === undefined ? undefined : (parseInstant(from, zone) ?? undefined),
    to: to === undefined ? undefined : (parseInstant(to, zone) ?? undefined),
  };
}

async function whoseLearners(
  runtime: Runtime,
  viewer: Viewer,
  { whose }: ReportDefinition,
  { gone, first }: { gone: string[]; first?: number },
) {
  const { people, filter = {}, course, group, organisation, caseload } = whose;
  const parts = Object.fromEntries(
    Object.entries({ course, group, organisation, caseload }).filter(([, name]) => name !== undefined),
  );
  const kept = without(filter, 'limit', 'cursor', 'format', 'as_of');
  let found: Awaited<ReturnType<typeof findMatching>>;
  try {
    // Whoever was chosen by hand is in it whether or not they are still there.
    const asked = { ...(people ? { status: 'all' } : {}), ...kept, ...parts };
    found = await findMatching(runtime, viewer, asked, people ? undefined : first);
  } catch (error) {
    if (error instanceof NotFound) throw fault(`whose.${Object.keys(parts)[0] ?? 'filter'}`, 'names nothing of yours');
    if (!(error instanceof InvalidInput)) throw error;
    const inFilter = ({ field }: { field: string }) => (field in parts ? `whose.${field}` : `whose.filter.${field}`);
    throw new InvalidInput(error.errors.map((one) => ({ ...one, field: inFilter(one) })));
  }
  const { view, query } = found;
  const status = people ? 'all' : (query.status ?? 'active');
  if (people === undefined) return { view, ids: found.ids, total: found.total, status } as const;
  const chosen = new Set(await keptNumbers(runtime.db, people));
  const ids = found.ids.filter((id) => chosen.has(id));
  const missing = people.length - ids.length;
  if (missing > 0) gone.push(missing === 1 ? 'one learner' : `${missing} learners`);
  return { view, ids, total: ids.length, status } as const;
}

/** The heads of a column: its own, its average's, or one for each chosen item. */
function headsOf(
  column: ReportColumn,
  { averages, items = [], per }: ReportDefinition,
  titles: ReadonlyMap<string, string>,
): ReportHead[] {
  const { name, title, kind, says, of, each, averageOf } = column;
  if (each)
    return items
      .filter((item) => titles.has(item))
      .map((item) => ({
        name: `${name}:${item}`,
        title: `${title}: ${titles.get(item)}`,
        kind,
        says,
        of: (row) => each(row, item),
      }));
  const own: ReportHead = { name, title, kind, says, of: (row, at) => of(row, at) };
  if (!averageOf || averages === undefined || per === 'learner' || !isFigure(kind)) return [own];
  return [
    own,
    {
      name: `${name}_average`,
      title: `${title}, ${averages} average`,
      kind: kind === 'count' ? 'number' : kind,
      says: `The mean of the ${averages}’s, of those whom you see and of 5 or more.`,
      of: (_row, _at, averaged) => averaged?.figures[averageOf] ?? null,
    },
  ];
}
