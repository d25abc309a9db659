/** The access log: every event, by whatever narrows it. */
import { IsIn, IsOptional, MaxLength } from 'class-validator';
import { LOG_KINDS, OPENS, kindsOf, type ActionKind, type LogKind } from '@/core/access/kinds';
import { countLog, type LogCount } from '@/data/access/log/counts';
import type { LogFilter, StaffShown } from '@/data/access/log/filter';
import type { LogCursor, LogRow } from '@/data/access/log/page';
import { coursesInLog, itemsOfLog, unitItems, type LogItem } from '@/data/access/log/names';
import { findLearner } from '@/data/people/learners';
import { actionsOfKinds, findAction } from '@/data/imports/mappings';
import type { Viewer } from '@/data/scope';
import { endOfView, type View } from '@/data/view';
import { countArchived, logWithArchives } from '../archive/log';
import { InvalidInput, NotFound, readInput, type Values } from '../request/input';
import { Filter } from '../request/list';
import { PeriodQuery, periodOf } from '../request/period';
import type { Runtime } from '../runtime';
import { openView } from '../request/view';

const long = { message: 'is too long' };
const STAFF = { no: 'no', yes: 'yes', only: 'only', true: 'yes', false: 'no', '1': 'yes', '0': 'no' } as const;

const STAFF_CHOICES = [
  { value: 'yes', label: 'shown too' },
  { value: 'only', label: 'only' },
];

export class AccessLogQuery extends PeriodQuery {
  @Filter({ help: 'a learner, by their id', says: (id, _params, names) => names.learner ?? id })
  @IsOptional()
  @MaxLength(200, long)
  learner?: string;

  @Filter({ help: 'an item, by its id', says: (id, _params, names) => `On ${names.item ?? id}` })
  @IsOptional()
  @MaxLength(200, long)
  item?: string;

  @Filter({
    help: 'the items of a unit',
    says: (unit) => `Items of ${unit}`,
    control: { as: 'choice', label: 'Unit', choices: 'units' },
  })
  @IsOptional()
  @MaxLength(200, long)
  unit?: string;

  @Filter({
    help: `${LOG_KINDS.join(', ')}, the last for the first three together`,
    says: (kind) => (kind === OPENS ? 'Opens: looked, worked or talked' : `Kind ${kind}`),
    control: {
      as: 'choice',
      label: 'Kind',
      choices: LOG_KINDS.map((kind) => ({ value: kind, label: kind === OPENS ? 'looked, worked or talked' : kind })),
    },
    replaces: ['action'],
  })
  @IsOptional()
  @IsIn(LOG_KINDS, { message: `is not one of ${LOG_KINDS.join(', ')}` })
  kind?: LogKind;

  @Filter({
    help: 'a word of the source',
    says: (word) => `Action ${word.replaceAll('_', ' ')}`,
    control: { as: 'choice', label: 'Action', choices: 'actions' },
    replaces: ['kind'],
  })
  @IsOptional()
  @MaxLength(200, long)
  action?: string;

  @Filter({
    help: '`yes` with staff, `only` staff alone',
    says: (staff) => (staff === 'only' ? 'Staff only' : 'With staff'),
    control: { as: 'choice', label: 'Staff', choices: STAFF_CHOICES, none: 'left out' },
  })
  @IsOptional()
  @IsIn(Object.keys(STAFF), { message: 'is not one of no, yes, only' })
  staff?: keyof typeof STAFF;

  @Filter({ help: 'a past date, as of whose end the log is read' })
  @IsOptional()
  @MaxLength(10, long)
  as_of?: string;
}

/** The log as somebody asked for it: ready to be read, counted or exported. */
export interface OpenLog {
  query: AccessLogQuery;
  view: View;
  filter: LogFilter;
  /** The kinds whose actions the filter has, where it goes by kind. */
  kinds?: readonly ActionKind[];
  /** The item asked for; the first, where courses share its id. */
  item?: LogItem;
}

/**
 * Reads what is asked for.
 * @throws InvalidInput naming the field; NotFound for a course, group, organisation, learner,
 *   item or unit that is not there or not the viewer's to see
 */
export async function openLog(runtime: Runtime, viewer: Viewer, values: Values): Promise<OpenLog> {
  const { db } = runtime;
  const query = readInput(AccessLogQuery, values, runtime.zone);
  const { course, group, organisation, caseload } = query;
  const view = await openView(runtime, viewer, { course, group, organisation, caseload }, query.as_of);
  const learnerId = query.learner === undefined ? undefined : await findLearner(db, viewer, query.learner);
  if (learnerId === null) throw new NotFound('No such learner');
  const courses = query.item !== undefined || query.unit !== undefined ? await coursesInLog(db, view) : [];
  const items = query.item === undefined ? undefined : await itemsOfLog(db, courses, query.item);
  if (items?.length === 0) throw new NotFound('No such item');
  const unit = query.unit === undefined ? undefined : await unitItems(db, courses, query.unit);
  if (unit?.length === 0) throw new NotFound('No such unit');
  const period = await periodOf(runtime, view, query, items?.[0]);
  const end = Math.min(period.to ?? Infinity, view.asOf === null ? Infinity : endOfView(view) + 1);
  const staff: StaffShown = STAFF[query.staff ?? 'no'];
  return {
    query,
    view,
    kinds: query.kind === undefined || query.action !== undefined ? undefined : kindsOf(query.kind),
    item: items?.[0],
    filter: {
      learnerId,
      itemIds: items?.map(({ id }) => id).filter((id) => !unit || unit.includes(id)) ?? unit,
      actionIds: await actionIds(runtime, query),
      staff,
      from: period.from,
      to: end === Infinity ? undefined : end,
    },
  };
}

async function actionIds({ db }: Runtime, { action, kind }: AccessLogQuery): Promise<number[] | undefined> {
  if (action !== undefined) {
    const row = await findAction(db, action);
    // A word that no log has used finds as little as one that only others have.
    if (!row) return [];
    return kind === undefined || kindsOf(kind).includes(row.kind) ? [row.id] : [];
  }
  return kind === undefined ? undefined : actionsOfKinds(db, kindsOf(kind));
}

/** Text of a place in the log, opaque to whoever holds it. */
export function writeCursor({ at, id }: LogCursor): string {
  return Buffer.from(`${at}.${id}`).toString('base64url');
}

/** @throws InvalidInput for what is no place */
function readCursor(cursor: string): LogCursor {
  const match = /^(-?\d{1,16})\.(\d{1,15})$/.exec(Buffer.from(cursor, 'base64url').toString());
  if (!match) throw new InvalidInput([{ field: 'cursor', message: 'is not a cursor given by this list' }]);
  return { at: Number(match[1]), id: Number(match[2]) };
}

export interface LogPageRead {
  rows: LogRow[];
  /** Months of archives that cannot be read, whose events are missing here. */
  broken: string[];
  /** Are any of the rows from an archive? It is slower. */
  isArchived: boolean;
  /** Positions from which the log goes on; null at its ends. */
  older: string | null;
  newer: string | null;
}

/**
 * A page of the log, newest first. `newer` turns round: the page of events right after the cursor.
 * @throws InvalidInput for a cursor that is none
 */
export async function readLog(
  runtime: Pick<Runtime, 'db' | 'settings'>,
  { view, filter }: OpenLog,
  { limit, cursor, newer = false }: { limit: number; cursor?: string; newer?: boolean },
): Promise<LogPageRead> {
  const from = cursor === undefined ? undefined : readCursor(cursor);
  const { rows, broken, isArchived } = await logWithArchives(runtime, view, filter, {
    limit: limit + 1,
    from,
    ascending: newer,
  });
  const more = rows.length > limit;
  if (more) rows.pop();
  if (newer) rows.reverse();
  const ends = { first: rows[0], last: rows.at(-1) };
  const place = (row: LogRow | undefined, is: boolean) => (row && is ? writeCursor(row) : null);
  return {
    rows,
    broken,
    isArchived,
    older: place(ends.last, newer ? true : more),
    newer: place(ends.first, newer ? more : cursor !== undefined),
  };
}

/** How many events match, by day and in all. */
export async function countOpenLog(
  runtime: Pick<Runtime, 'db' | 'zone' | 'settings'>,
  { view, filter, kinds }: OpenLog,
): Promise<LogCount> {
  const { db, zone } = runtime;
  const archived = (part: LogFilter) => countArchived(runtime, view, part);
  return countLog(db, { scope: view, filter, kinds, zone, archived });
}
