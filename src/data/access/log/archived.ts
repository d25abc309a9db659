/** Events of archived courses: what is told of their files, taking them out of the log, and rows of a file as the log shows them. */
import type { Knex } from 'knex';
import { prepared, withRaw, type Db, type RawConnection } from '@/data/db';
import { daySql } from '@/data/day-sql';
import { staffName } from '@/data/person';
import type { ViewScope, Viewer } from '@/data/scope';
import { eventMatches, type LogFilter } from './filter';
import { coursesInLog } from './names';
import { readRows, rowSql, type LogRow } from './page';

/** An event as an archive's file holds it; times in epoch ms. */
export interface ArchivedEvent {
  id: number;
  at: number;
  learner: number | null;
  staff: number | null;
  item: number | null;
  action: number;
  address: string | null;
  source: number;
  external_id: string | null;
  /** The statement of learning that brought it, as it came. */
  statement: string | null;
}

export interface ArchiveFile {
  id: number;
  course_id: number;
  course: string;
  month: string;
  name: string;
  events: number;
  bytes: number;
  sum: string;
  first_at: number;
  last_at: number;
}

const files = (db: Db) =>
  db('archive_file')
    .join('course', 'course.id', 'archive_file.course_id')
    .orderBy('archive_file.id')
    .select<ArchiveFile[]>('archive_file.*', 'course.code as course');

/** Every file of every archive. */
export async function allArchiveFiles(db: Db): Promise<ArchiveFile[]> {
  return files(db);
}

export async function archiveFilesOf(db: Db, courseId: number): Promise<ArchiveFile[]> {
  return files(db).where('course_id', courseId);
}

/** Files with events of the courses in view, in some days; none where nothing is archived. */
export async function archiveFilesInView(db: Db, scope: ViewScope, { from, to }: LogFilter): Promise<ArchiveFile[]> {
  const found: ArchiveFile[] = await files(db).modify((query) => {
    if (from !== undefined) query.where('last_at', '>=', from);
    if (to !== undefined) query.where('first_at', '<', to);
  });
  if (found.length === 0) return found;
  const courses = new Set(await coursesInLog(db, scope));
  return found.filter(({ course_id }) => courses.has(course_id));
}

/** What a file's rows stand in for in a statement: the table of events. */
const AS_EVENTS = `WITH event AS MATERIALIZED (SELECT value ->> 0 AS id, value ->> 1 AS at, value ->> 2 AS learner_id,
  value ->> 3 AS staff_id, value ->> 4 AS course_id, value ->> 5 AS item_id, value ->> 6 AS action_id, value ->> 7 AS address,
  value ->> 8 AS source_id FROM json_each(?))`;

const asJson = (courseId: number, events: readonly ArchivedEvent[]) =>
  JSON.stringify(events.map((e) => [e.id, e.at, e.learner, e.staff, courseId, e.item, e.action, e.address, e.source]));

/** Those of some archived events that match, in the viewer's scope, as the log shows them; in no order. */
export async function archivedRows(
  db: Db,
  scope: ViewScope,
  filter: LogFilter,
  courseId: number,
  events: readonly ArchivedEvent[],
): Promise<LogRow[]> {
  if (events.length === 0) return [];
  const { sql, bindings } = placesThatMatch(db, scope, filter);
  const text = `${AS_EVENTS} ${rowSql(scope.viewer, `(${sql}) AS place`, filter)}`;
  return readRows(db, text, [asJson(courseId, events), ...bindings]);
}

function placesThatMatch(db: Db, scope: ViewScope, filter: LogFilter): Knex.SqlNative {
  return db('event')
    .modify(eventMatches(db, scope, filter))
    .select('event.id')
    .toSQL()
    .toNative();
}

/** How many of some archived events match, by day. */
export async function archivedDays(
  db: Db,
  scope: ViewScope,
  filter: LogFilter,
  zone: string,
  courseId: number,
  events: readonly ArchivedEvent[],
): Promise<{ day: number; events: number }[]> {
  if (events.length === 0) return [];
  const { sql, bindings } = placesThatMatch(db, scope, filter);
  const times = events.map(({ at }) => at);
  const day = daySql('event.at', zone, Math.min(...times), Math.max(...times) + 1);
  const text = `${AS_EVENTS} SELECT ${day} AS day, count(*) AS events FROM event WHERE id IN (${sql}) GROUP BY 1`;
  return withRaw(
    db,
    (raw) => prepared(raw, text).all(asJson(courseId, events), ...bindings) as { day: number; events: number }[],
  );
}

/** Some archived events as the record of a person has them. */
export async function archivedForRecord(
  db: Db,
  courseId: number,
  events: readonly ArchivedEvent[],
): Promise<Record<string, string | number | null>[]> {
  if (events.length === 0) return [];
  const text = `${AS_EVENTS} SELECT event.at, course.code AS course, item.external_id AS item, action.word AS action, event.address,
      source.name AS source
    FROM event JOIN course ON course.id = event.course_id JOIN action ON action.id = event.action_id
    JOIN source ON source.id = event.source_id LEFT JOIN item ON item.id = event.item_id ORDER BY event.at, event.id`;
  const rows = await withRaw(
    db,
    (raw) => prepared(raw, text).all(asJson(courseId, events)) as Record<string, string | number | null>[],
  );
  return rows.map((row, index) => ({
    ...row,
    external_id: events[index].external_id,
    statement: events[index].statement,
  }));
}

/** Records that were merged into another, by the one that was kept: files say whose an event was when it was archived. */
export async function mergedRecords(db: Db): Promise<Map<number, number>> {
  const rows: { id: number; merged_into: number }[] = await db('learner')
    .whereNotNull('merged_into')
    .select('id', 'merged_into');
  return new Map(rows.map(({ id, merged_into }) => [id, merged_into]));
}

/** Some events of a course after an instant and number, in time order, with the statements that brought them. */
export function eventsToArchive(
  raw: RawConnection,
  courseId: number,
  after: { at: number; id: number },
  limit: number,
): ArchivedEvent[] {
  return prepared(
    raw,
    `SELECT e.id, e.at, e.learner_id AS learner, e.staff_id AS staff, e.item_id AS item, e.action_id AS action, e.address,
       e.source_id AS source, e.external_id, s.body AS statement
     FROM event e INDEXED BY event_course LEFT JOIN statement s ON s.source_id = e.source_id AND s.uuid = e.external_id
     WHERE e.course_id = ? AND e.at >= ? AND (e.at, e.id) > (?, ?) ORDER BY e.at, e.id LIMIT ?`,
  ).all(courseId, after.at, after.at, after.id, limit) as ArchivedEvent[];
}

/** What has been archived, or is to be. */
export interface ArchiveRow {
  course_id: number;
  course: string;
  title: string;
  state: 'asked' | 'emptying' | 'done';
  asked_at: number;
  by: string | null;
  done_at: number | null;
  error: string | null;
  events: number;
  bytes: number;
  files: number;
}

/** What has been archived and what is to be, the newest first. */
export async function archives(db: Db, viewer: Viewer): Promise<ArchiveRow[]> {
  return db('archive')
    .join('course', 'course.id', 'archive.course_id')
    .leftJoin('staff', 'staff.id', 'archive.staff_id')
    .leftJoin('archive_file as f', 'f.course_id', 'archive.course_id')
    .groupBy('archive.course_id')
    .orderBy('archive.asked_at', 'desc')
    .select(
      'archive.course_id',
      'course.code as course',
      'course.title',
      'archive.state',
      'archive.asked_at',
      db.raw(`${staffName(viewer)} AS "by"`),
      'archive.done_at',
      'archive.error',
      db.raw('total(f.events) AS events'),
      db.raw('total(f.bytes) AS bytes'),
      db.raw('count(f.id) AS files'),
    );
}

export async function addArchive(trx: Db, courseId: number, staffId: number | null, at: number): Promise<void> {
  const asked = { state: 'asked', asked_at: at, staff_id: staffId } as const;
  await trx('archive')
    .insert({ course_id: courseId, ...asked })
    .onConflict('course_id')
    .merge(asked);
}

/** Notes where an archive stands. */
export async function noteArchive(
  trx: Db,
  courseId: number,
  changes: { state?: 'emptying' | 'done'; done_at?: number; error?: string | null; to_day?: number; to_at?: number },
): Promise<void> {
  await trx('archive').where('course_id', courseId).update(changes);
}

/** Takes an archive that nobody has begun back, or one whose files are gone away. */
export async function removeArchive(trx: Db, courseId: number): Promise<void> {
  await trx('archive_file').where('course_id', courseId).delete();
  await trx('archive').where('course_id', courseId).delete();
}

export async function addArchiveFiles(trx: Db, made: readonly Omit<ArchiveFile, 'id' | 'course'>[]): Promise<void> {
  await trx.batchInsert('archive_file', [...made], 50);
}

/** A file was written anew. */
export async function replaceArchiveFile(
  trx: Db,
  id: number,
  changes: Pick<ArchiveFile, 'name' | 'bytes' | 'sum'>,
): Promise<void> {
  await trx('archive_file').where({ id }).update(changes);
}
