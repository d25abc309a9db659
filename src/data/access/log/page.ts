/** One page of the access log, found without walking the log. */
import type { ActionKind } from '@/core/access/kinds';
import { DAY, HOUR } from '@/core/time/zone';
import { prepared, withRaw, type Db } from '@/data/db';
import { freeText, personColumns, staffColumn, staffName } from '@/data/person';
import type { ViewScope, Viewer } from '@/data/scope';
import { eventMatches, type LogFilter } from './filter';
import { wayInto, type WayIn } from './way-in';

/** An event's place in the log. */
export interface LogCursor {
  at: number;
  id: number;
}

export interface LogPageRequest {
  limit: number;
  /** Events before this place (after it, when turned round); from the newest (oldest) when left out. */
  from?: LogCursor;
  /** Oldest first. */
  ascending?: boolean;
}

/** The share of the whole time that is looked at first where little is known of how dense events lie. */
const FIRST_SHARE = { item_id: 1 / 16, other: 1 / 64 };
const WIDEN = 4;
/** An estimate of how far back a set of learners goes, to tell how dense their events lie. */
const USUAL_SPAN = 60 * DAY;

/** Positions of the events of one stretch of time, in order. */
function cursorsBetween(
  db: Db,
  scope: ViewScope,
  filter: LogFilter,
  way: WayIn,
  { limit, from, ascending }: LogPageRequest,
) {
  const order = ascending ? 'ASC' : 'DESC';
  const beyond = ascending ? '>' : '<';
  return db
    .from(
      db.raw(
        isOneKey(way)
          ? `event INDEXED BY ${way.index}`
          : `json_each(?) AS k CROSS JOIN event INDEXED BY ${way.index} ON event.${way.column} = k.value`,
        isOneKey(way) ? [] : [JSON.stringify(way.keys)],
      ),
    )
    .modify((query) => {
      if (way.column !== null && way.keys.length === 1) query.where(`event.${way.column}`, way.keys[0]);
      if (from) {
        query.whereRaw(`event.at ${beyond}= ?`, [from.at]);
        query.whereRaw(`(event.at, event.id) ${beyond} (?, ?)`, [from.at, from.id]);
      }
    })
    .modify(eventMatches(db, scope, filter, way.settled))
    .orderByRaw(`event.at ${order}, event.id ${order}`)
    .limit(limit)
    .select<LogCursor[]>('event.id', 'event.at');
}

function isOneKey(way: WayIn): boolean {
  return way.column === null || way.keys.length === 1;
}

/** The instants of the first and last event on a way of several keys. */
async function endsOfWay(db: Db, way: WayIn): Promise<{ oldest: number | null; newest: number | null }> {
  const branch = (order: string) =>
    `(SELECT at FROM event INDEXED BY ${way.index} WHERE ${way.column} = k.value ORDER BY at ${order} LIMIT 1)`;
  const [ends] = await db
    .from(db.raw('json_each(?) AS k', [JSON.stringify(way.keys)]))
    .select(db.raw(`min(${branch('ASC')}) AS oldest`), db.raw(`max(${branch('DESC')}) AS newest`));
  return ends;
}

/**
 * Positions of the events that match, newest first (or oldest), at most `limit`.
 *
 * A single key's events are read off its index in order. Those of several keys are gathered by
 * stretches of time that widen as long as they hold too little, so that only a small multiple of
 * what is shown is looked at.
 */
export async function logCursors(
  db: Db,
  scope: ViewScope,
  filter: LogFilter,
  request: LogPageRequest,
): Promise<LogCursor[]> {
  return gather(db, scope, filter, await wayInto(db, scope, filter), request);
}

async function gather(
  db: Db,
  scope: ViewScope,
  filter: LogFilter,
  way: WayIn,
  request: LogPageRequest,
): Promise<LogCursor[]> {
  if (isOneKey(way)) return cursorsBetween(db, scope, filter, way, request);
  if (way.keys.length === 0) return [];
  const { oldest, newest } = await endsOfWay(db, way);
  if (oldest === null || newest === null) return [];
  const { ascending, from, limit } = request;
  const low = Math.max(oldest, filter.from ?? oldest, ascending && from ? from.at : oldest);
  const high = Math.min(newest + 1, filter.to ?? Infinity, !ascending && from ? from.at + 1 : Infinity);
  let stretch =
    way.events === null || way.events === 0
      ? Math.max(HOUR, (high - low) * FIRST_SHARE[way.column === 'item_id' ? 'item_id' : 'other'])
      : Math.max(HOUR / 4, (1.5 * limit * Math.min(USUAL_SPAN, newest - oldest + HOUR)) / way.events);
  const found: LogCursor[] = [];
  let edge = ascending ? low : high;
  while (found.length < limit && (ascending ? edge < high : edge > low)) {
    const next = ascending ? Math.min(high, edge + stretch) : Math.max(low, edge - stretch);
    const part = { ...filter, from: Math.min(edge, next), to: Math.max(edge, next) };
    found.push(...(await cursorsBetween(db, scope, part, way, { ...request, limit: limit - found.length })));
    edge = next;
    stretch *= WIDEN;
  }
  return found;
}

/** An event as the log shows it. */
export interface LogRow {
  id: number;
  at: number;
  /** The database's id of the learner; null for staff. */
  person: number | null;
  source_id: number;
  learner_id: string;
  name: string;
  course: string;
  item_id: string | null;
  item: string | null;
  action: string;
  kind: ActionKind;
  address: string | null;
}

/**
 * The columns of a log row, in SQL, for the events whose ids `from` gives as `id`. Where staff events
 * are left out, nobody asks for each row whether it is one.
 */
export function rowSql(viewer: Viewer, from: string, { staff }: Pick<LogFilter, 'staff'>): string {
  const learner = personColumns(viewer);
  const either = (own: string, theirs: string) =>
    staff === 'no' ? own : `CASE WHEN event.learner_id IS NULL THEN ${theirs} ELSE ${own} END`;
  return `SELECT event.id, event.at, event.learner_id AS person, event.source_id,
      ${either(learner.id, staffColumn(viewer, 'external_id'))} AS learner_id,
      ${either(learner.name, staffName(viewer))} AS name,
      course.code AS course, item.external_id AS item_id, item.title AS item, action.word AS action, action.kind,
      ${freeText(viewer, 'event.address')} AS address
    FROM ${from} CROSS JOIN event ON event.id = place.id
      JOIN course ON course.id = event.course_id
      JOIN action ON action.id = event.action_id
      LEFT JOIN learner ON learner.id = event.learner_id
      ${staff === 'no' ? '' : 'LEFT JOIN staff ON staff.id = event.staff_id'}
      LEFT JOIN item ON item.id = event.item_id`;
}

/** The same for a list of ids in JSON, whose order the rows keep; for whoever streams the log. */
export function logRowSql(viewer: Viewer, filter: Pick<LogFilter, 'staff'>): string {
  return rowSql(viewer, '(SELECT value AS id FROM json_each(?)) AS place', filter);
}

/** A page of the log, newest first (or oldest), cut to the viewer's scope. */
export async function logPage(db: Db, scope: ViewScope, filter: LogFilter, request: LogPageRequest): Promise<LogRow[]> {
  const way = await wayInto(db, scope, filter);
  if (isOneKey(way)) {
    // One query for places and rows: a page costs little more than its rows.
    const { sql, bindings } = cursorsBetween(db, scope, filter, way, request).toSQL().toNative();
    return readRows(db, rowSql(scope.viewer, `(${sql}) AS place`, filter), bindings);
  }
  const places = await gather(db, scope, filter, way, request);
  return readRows(db, logRowSql(scope.viewer, filter), [JSON.stringify(places.map(({ id }) => id))]);
}

type Cells = [
  number,
  number,
  number | null,
  number,
  string,
  string,
  string,
  string | null,
  string | null,
  string,
  ActionKind,
  string | null,
];

/** Rows by cells: an object made here costs a fraction of one made for us. */
export async function readRows(db: Db, sql: string, bindings: readonly unknown[]): Promise<LogRow[]> {
  const rows = await withRaw(
    db,
    (raw) =>
      prepared(raw, sql)
        .raw()
        .all(...bindings) as Cells[],
  );
  return rows.map(([id, at, person, source_id, learner_id, name, course, item_id, item, action, kind, address]) => ({
    id,
    at,
    person,
    source_id,
    learner_id,
    name,
    course,
    item_id,
    item,
    action,
    kind,
    address,
  }));
}
