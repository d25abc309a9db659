/** The log with what is in archives: the rows of both in one order. Nothing is read of an archive that a page does not show. */
import type { ActionKind } from '@/core/access/kinds';
import { eventsOfLearner, type EventRow } from '@/data/access/visits';
import {
  allArchiveFiles,
  archiveFilesInView,
  archivedDays,
  archivedRows,
  mergedRecords,
  type ArchiveFile,
  type ArchivedEvent,
} from '@/data/access/log/archived';
import type { LogFilter } from '@/data/access/log/filter';
import { logPage, type LogCursor, type LogPageRequest, type LogRow } from '@/data/access/log/page';
import type { Db } from '@/data/db';
import { actionsOfKinds, findAction } from '@/data/imports/mappings';
import type { EachArchived } from '@/data/item-use/item-use';
import type { ViewScope } from '@/data/scope';
import { NotFound } from '../request/input';
import type { Runtime } from '../runtime';
import { pathOf } from './files';
import { openEvents, type EventReader, type RowGroup } from './parquet';

type Parts = Pick<Runtime, 'db' | 'settings'>;

/** Files that are kept open to be read: what they say of their groups, not their rows. */
const OPEN_FILES = 200;
/** Groups of rows that are kept, for whoever goes on from them. */
const READ_GROUPS = 24;

const opened = new Map<string, Promise<EventReader>>();
const read = new Map<string, Promise<ArchivedEvent[]>>();

/** Keeps what was made last; what failed is not kept. */
function remembered<T>(kept: Map<string, Promise<T>>, most: number, key: string, make: () => Promise<T>): Promise<T> {
  const known = kept.get(key) ?? make();
  kept.delete(key);
  kept.set(key, known);
  known.catch(() => kept.delete(key));
  for (const oldest of kept.keys()) {
    if (kept.size <= most) break;
    kept.delete(oldest);
  }
  return known;
}

interface FileGroup extends RowGroup {
  file: ArchiveFile;
  reader: EventReader;
}

/** Is a group's stretch of time within a filter's? */
const isWithin = ({ first, last }: RowGroup, { from = -Infinity, to = Infinity }: LogFilter) =>
  last >= from && first < to;

/** The groups of some files that may hold what is asked for, and what cannot be read of them. */
async function groupsOf(
  runtime: Parts,
  files: readonly ArchiveFile[],
  filter: LogFilter,
): Promise<{ groups: FileGroup[]; broken: string[] }> {
  const groups: FileGroup[] = [];
  const broken: string[] = [];
  for (const file of files) {
    const own = await groupsOfFile(runtime, file, filter);
    if (own === null) broken.push(sayFile(file));
    else groups.push(...own);
  }
  return { groups, broken };
}

/** The groups of a file that may hold what is asked for; null where it cannot be read. */
async function groupsOfFile(runtime: Parts, file: ArchiveFile, filter: LogFilter): Promise<FileGroup[] | null> {
  const path = pathOf(runtime, file.name);
  try {
    const reader = await remembered(opened, OPEN_FILES, path, () => openEvents(path));
    return reader.groups.filter((group) => isWithin(group, filter)).map((group) => ({ ...group, file, reader }));
  } catch {
    return null;
  }
}

const sayFile = ({ course, month }: ArchiveFile) => `${course}, ${month}`;

/**
 * The groups of some files in the order of time in which they begin, or end where it is newest first. A file is opened when it is its
 * turn: whoever has enough before that opens none for nothing. What cannot be read is named.
 */
async function* groupsInTurn(
  runtime: Parts,
  files: readonly ArchiveFile[],
  filter: LogFilter,
  ascending: boolean,
  broken: string[],
): AsyncGenerator<FileGroup | ArchiveFile> {
  const turn = (one: FileGroup | ArchiveFile) =>
    'reader' in one ? (ascending ? one.first : -one.last) : ascending ? one.first_at : -one.last_at;
  const waiting: (FileGroup | ArchiveFile)[] = [...files].sort((a, b) => turn(b) - turn(a));
  for (let next = waiting.pop(); next; next = waiting.pop()) {
    yield next;
    if ('reader' in next) continue;
    const own = await groupsOfFile(runtime, next, filter);
    if (own === null) broken.push(sayFile(next));
    else waiting.push(...own);
    waiting.sort((a, b) => turn(b) - turn(a));
  }
}

/** The events of a group that a filter may leave in, each of whoever's it is now. */
async function eventsOf(
  runtime: Parts,
  { file, reader, ...group }: FileGroup,
  { learnerId, itemIds, actionIds, staff, from = -Infinity, to = Infinity }: LogFilter,
  merged: ReadonlyMap<number, number>,
): Promise<ArchivedEvent[]> {
  const key = `${pathOf(runtime, file.name)}#${group.start}`;
  const events = await remembered(read, READ_GROUPS, key, () => reader.read(group));
  const [items, actions] = [itemIds && new Set(itemIds), actionIds && new Set(actionIds)];
  const now = (learner: number | null) => (learner === null ? null : (merged.get(learner) ?? learner));
  return events
    .filter(
      ({ at, learner, item, action }) =>
        at >= from &&
        at < to &&
        (learnerId === undefined || now(learner) === learnerId) &&
        (staff !== 'no' || learner !== null) &&
        (staff !== 'only' || learner === null) &&
        (!items || (item !== null && items.has(item))) &&
        (!actions || actions.has(action)),
    )
    .map((event) =>
      event.learner !== null && merged.has(event.learner) ? { ...event, learner: now(event.learner) } : event,
    );
}

/** Is any of what is asked for in an archive? */
export async function anyArchived({ db }: Pick<Runtime, 'db'>, scope: ViewScope, filter: LogFilter): Promise<boolean> {
  return (await archiveFilesInView(db, scope, filter)).length > 0;
}

/** A page of the log, newest first (or oldest), with what is in archives among it. */
export async function logWithArchives(
  runtime: Parts,
  scope: ViewScope,
  filter: LogFilter,
  request: LogPageRequest,
): Promise<{ rows: LogRow[]; broken: string[]; isArchived: boolean }> {
  const { db } = runtime;
  const { limit, from, ascending = false } = request;
  const live = await logPage(db, scope, filter, request);
  // Nothing that lies beyond the place, or beyond a page that is full, is looked for.
  const edge = live.length === limit ? live[limit - 1].at : undefined;
  const bounds = ascending
    ? {
        ...filter,
        from: Math.max(filter.from ?? -Infinity, from?.at ?? -Infinity),
        to: Math.min(filter.to ?? Infinity, (edge ?? Infinity) + 1),
      }
    : {
        ...filter,
        from: Math.max(filter.from ?? -Infinity, edge ?? -Infinity),
        to: Math.min(filter.to ?? Infinity, (from?.at ?? Infinity) + 1),
      };
  const within = { ...filter, from: finite(bounds.from), to: finite(bounds.to) };
  const files = await archiveFilesInView(db, scope, within);
  if (files.length === 0) return { rows: live, broken: [], isArchived: false };
  const merged = await mergedRecords(db);
  const broken: string[] = [];
  const after = (a: LogCursor, b: LogCursor) => (ascending ? 1 : -1) * (a.at - b.at || a.id - b.id);
  let rows = live;
  let isArchived = false;
  for await (const next of groupsInTurn(runtime, files, within, ascending, broken)) {
    const full = rows.length >= limit ? rows[limit - 1].at : null;
    const [first, last] = 'reader' in next ? [next.first, next.last] : [next.first_at, next.last_at];
    if (full !== null && (ascending ? first > full : last < full)) break;
    if (!('reader' in next)) continue;
    const events = (await eventsOf(runtime, next, within, merged)).filter((one) => !from || after(one, from) > 0);
    const found = await nearest(runtime, scope, filter, next, events.sort(after), limit);
    if (found.length === 0) continue;
    const known = new Set(rows.map(ofEvent));
    // While a course is being archived its events are in both; the number alone may be another's by now.
    const anew = found.filter((row) => !known.has(ofEvent(row)));
    rows = [...rows, ...anew].sort(after).slice(0, limit);
    isArchived ||= rows.some((row) => anew.includes(row));
  }
  return { rows, broken, isArchived };
}

const ofEvent = ({ id, at }: LogRow) => `${id} ${at}`;

const finite = (value: number) => (Number.isFinite(value) ? value : undefined);

/** Events looked up at once: a few more than a page has, as most are in view. */
const AT_ONCE = 200;

/** The first of some events, in their order, that are in view: no more are looked up than a page shows. */
async function nearest(
  { db }: Parts,
  scope: ViewScope,
  filter: LogFilter,
  { file }: FileGroup,
  events: readonly ArchivedEvent[],
  limit: number,
): Promise<LogRow[]> {
  const found: LogRow[] = [];
  for (let start = 0; start < events.length && found.length < limit; start += Math.max(AT_ONCE, limit))
    found.push(
      ...(await archivedRows(db, scope, filter, file.course_id, events.slice(start, start + Math.max(AT_ONCE, limit)))),
    );
  return found;
}

/** How many events in archives match, by day. What cannot be read is not counted. */
export async function countArchived(
  runtime: Parts & Pick<Runtime, 'zone'>,
  scope: ViewScope,
  filter: LogFilter,
): Promise<{ day: number; events: number }[]> {
  const { db, zone } = runtime;
  const files = await archiveFilesInView(db, scope, filter);
  if (files.length === 0) return [];
  const { groups } = await groupsOf(runtime, files, filter);
  const merged = await mergedRecords(db);
  const days = new Map<number, number>();
  for (const group of groups) {
    const events = await eventsOf(runtime, group, filter, merged);
    for (const { day, events: found } of await archivedDays(db, scope, filter, zone, group.file.course_id, events))
      days.set(day, (days.get(day) ?? 0) + found);
  }
  return [...days].map(([day, events]) => ({ day, events })).sort((a, b) => a.day - b.day);
}

/** A learner's events from one instant to another, both included, in time order, also those in archives. */
export async function eventsOfPerson(
  runtime: Parts,
  scope: ViewScope,
  learnerId: number,
  [from, until]: readonly [number, number],
  limit: number,
): Promise<EventRow[]> {
  const filter: LogFilter = { learnerId, staff: 'no', from, to: until + 1 };
  if (!(await anyArchived(runtime, scope, filter)))
    return eventsOfLearner(runtime.db, scope.viewer, scope.segment, learnerId, from, until, limit);
  const { rows } = await logWithArchives(runtime, scope, filter, { limit, ascending: true });
  return rows.map(({ at, course, item, item_id, action, kind, address }) => ({
    at,
    course,
    item,
    item_id,
    action,
    kind,
    address,
  }));
}

/** Tells of the events in archives that are of a deed, one by one. Throws where one cannot be read: nobody is to be told wrongly. */
export function archivedActivity(runtime: Parts): EachArchived {
  return async (deed, { from, to }, add) => {
    const { db } = runtime;
    const courses = new Set(deed.courseIds);
    const files = (await allArchiveFiles(db)).filter(({ course_id }) => courses.has(course_id));
    if (files.length === 0) return;
    const filter: LogFilter = {
      staff: 'no',
      from,
      to,
      itemIds: deed.itemIds.length > 0 ? deed.itemIds : undefined,
      actionIds: await actionsOfDeed(db, deed),
    };
    const { groups, broken } = await groupsOf(runtime, files, filter);
    if (broken.length > 0) throw new NotFound(`An archive cannot be read: ${broken.join('; ')}`);
    const merged = await mergedRecords(db);
    for (const group of groups)
      for (const { learner, item, at } of await eventsOf(runtime, group, filter, merged))
        if (item !== null) add(learner!, at);
  };
}

async function actionsOfDeed(db: Db, { action, kind }: { action?: string; kind?: ActionKind }) {
  const known = action === undefined ? undefined : await findAction(db, action);
  if (action !== undefined) return known && (kind === undefined || known.kind === kind) ? [known.id] : [];
  return kind === undefined ? undefined : actionsOfKinds(db, [kind]);
}
