/** Gaps in the feed: hours for which a source's log is incomplete. */
import { HOUR } from '@/core/time/zone';
import type { HourCounts } from '@/core/feed/rhythm';
import type { Db, RawConnection } from '../db';
import { staffName } from '../person';
import type { Viewer } from '../scope';

/**
 * Found by the rhythm and nobody's yet; confirmed; not one after all; filled by a later file; or that of a log that has stopped
 * and grows until more of it comes.
 */
export type GapState = 'found' | 'confirmed' | 'dismissed' | 'filled' | 'stopped';

/** SQL of gaps whose days do not count. */
const NOT_COUNTED = "state IN ('confirmed', 'stopped')";

export interface GapRow {
  id: number;
  source_id: number;
  source: string;
  from_at: number;
  /** Not included. */
  to_at: number;
  state: GapState;
  reason: string;
  expected: number | null;
  /** Events there were in it when it was noted. */
  came: number;
  /** Who said so last; null where nobody has. */
  by: string | null;
  changed_at: number | null;
  /** Was it noted without anybody's leave, because the log had stopped? Then it ends by itself. */
  by_itself: number;
}

/** Names a gap of a source; one that is there already is confirmed. The source's id; null when there is none such. */
export async function addFeedGap(
  db: Db,
  source: string,
  fromAt: number,
  toAt: number,
  more: { reason?: string; staff_id?: number | null; changed_at?: number } = {},
): Promise<number | null> {
  const row = await db('source').where('name', source).first('id');
  if (!row) return null;
  const [{ came }] = await db('source_hour')
    .where('source_id', row.id)
    .whereBetween('hour', [Math.floor(fromAt / HOUR), Math.ceil(toAt / HOUR) - 1])
    .select<{ came: number }[]>(db.raw('total(events) AS came'));
  await db('feed_gap')
    .insert({ source_id: row.id, from_at: fromAt, to_at: toAt, state: 'confirmed', came, ...more })
    .onConflict(['source_id', 'from_at', 'to_at'])
    .merge();
  return row.id;
}

/** Gaps of the sources that feed some courses, whose days do not count. */
export async function courseFeedGaps(db: Db, courseIds: readonly number[]) {
  return (await db('feed_gap')
    .join('source_course', 'source_course.source_id', 'feed_gap.source_id')
    .whereIn('source_course.course_id', courseIds)
    .whereRaw(`feed_gap.${NOT_COUNTED}`)
    .orderBy('from_at')
    .select('course_id', 'from_at', 'to_at')) as { course_id: number; from_at: number; to_at: number }[];
}

/** Every gap there is or was, the newest first. */
export async function listGaps(db: Db, viewer: Viewer): Promise<GapRow[]> {
  return db('feed_gap')
    .join('source', 'source.id', 'feed_gap.source_id')
    .leftJoin('staff', 'staff.id', 'feed_gap.staff_id')
    .orderBy('feed_gap.from_at', 'desc')
    .select('feed_gap.*', 'source.name as source', db.raw(`${staffName(viewer)} AS by`));
}

export async function findGap(db: Db, id: number): Promise<GapRow | null> {
  const row = await db('feed_gap')
    .join('source', 'source.id', 'feed_gap.source_id')
    .where('feed_gap.id', id)
    .first('feed_gap.*', 'source.name as source');
  return row ?? null;
}

export async function setGapState(
  db: Db,
  id: number,
  state: GapState,
  more: { staff_id?: number | null; changed_at: number; came?: number },
): Promise<void> {
  await db('feed_gap')
    .where({ id })
    .update({ state, ...more });
}

/** Events by hour of a source, from an hour on. */
export function hoursOf(raw: RawConnection, sourceId: number, fromHour: number): HourCounts {
  return new Map(
    raw
      .prepare('SELECT hour, events FROM source_hour WHERE source_id = ? AND hour >= ? AND events > 0')
      .raw()
      .all(sourceId, fromHour) as [number, number][],
  );
}

/** Gaps of a source that may still change: by filling, or by growing. */
export function openGaps(raw: RawConnection, sourceId: number): Omit<GapRow, 'source' | 'by'>[] {
  return raw
    .prepare("SELECT * FROM feed_gap WHERE source_id = ? AND state NOT IN ('filled', 'stopped')")
    .all(sourceId) as Omit<GapRow, 'source' | 'by'>[];
}

export function noteFoundGap(
  raw: RawConnection,
  sourceId: number,
  gap: { from_at: number; to_at: number; expected: number },
  now: number,
): void {
  raw
    .prepare(
      `INSERT OR IGNORE INTO feed_gap (source_id, from_at, to_at, state, expected, changed_at)
       VALUES (?, ?, ?, 'found', ?, ?)`,
    )
    .run(sourceId, gap.from_at, gap.to_at, gap.expected, now);
}

export function growGap(raw: RawConnection, id: number, toAt: number, expected: number): void {
  raw.prepare('UPDATE feed_gap SET to_at = max(to_at, ?), expected = ? WHERE id = ?').run(toAt, expected, id);
}

export function fillGap(raw: RawConnection, id: number, now: number): void {
  raw.prepare("UPDATE feed_gap SET state = 'filled', changed_at = ? WHERE id = ?").run(now, id);
}

/** A gap that only the rhythm had found, and that was none, goes without a trace. */
export function dropFoundGap(raw: RawConnection, id: number): void {
  raw.prepare("DELETE FROM feed_gap WHERE id = ? AND state = 'found'").run(id);
}

/** Sources with their last events, for those who look after them and for the bar of the live screen. */
export function sourcesWithEvents(raw: RawConnection): { id: number; name: string; last_event_at: number }[] {
  return raw.prepare('SELECT id, name, last_event_at FROM source WHERE last_event_at IS NOT NULL').all() as {
    id: number;
    name: string;
    last_event_at: number;
  }[];
}

/** Sources that feed some courses. */
export async function sourcesOfCourses(db: Db, courseIds: readonly number[]): Promise<number[]> {
  return db('source_course').whereIn('course_id', courseIds).distinct('source_id').pluck('source_id');
}

/** Is an instant after that at which a source is known to have stopped? */
export function isStopped(raw: RawConnection, sourceId: number, at: number): boolean {
  return (
    raw
      .prepare("SELECT 1 FROM feed_gap WHERE source_id = ? AND state = 'stopped' AND from_at < ?")
      .get(sourceId, at) !== undefined
  );
}
