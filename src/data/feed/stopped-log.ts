/** Logs that have stopped, and what is kept of their silences: gaps that are noted and end by themselves. */
import { HOUR, dayOf } from '@/core/time/zone';
import { prepared, type RawConnection } from '../db';
import { hoursOf } from './feed-gaps';

/** The log of a course that has stopped. */
export interface StoppedLog {
  source: string;
  /** The first day of which it tells nothing. */
  from: number;
  /** Its last event. */
  after: number;
}

/** The log of a course that has stopped, the first of several; null while none has. */
export function stoppedLog(raw: RawConnection, courseId: number, zone: string): StoppedLog | null {
  const found = prepared(
    raw,
    `SELECT s.name AS source, s.last_event_at AS after, g.from_at AS fromAt FROM feed_gap g
     JOIN source s ON s.id = g.source_id JOIN source_course c ON c.source_id = g.source_id
     WHERE g.state = 'stopped' AND c.course_id = ? ORDER BY g.from_at LIMIT 1`,
  ).get(courseId) as { source: string; after: number; fromAt: number } | undefined;
  return found ? { source: found.source, after: found.after, from: dayOf(found.fromAt, zone) } : null;
}

/** Sources to be looked at: silent since an instant, or with silences that were noted. */
export function silentSources(raw: RawConnection, since: number): { id: number; lastAt: number }[] {
  return prepared(
    raw,
    `SELECT id, last_event_at AS lastAt FROM source WHERE last_event_at IS NOT NULL AND (last_event_at < ?
       OR EXISTS (SELECT 1 FROM feed_gap WHERE source_id = source.id AND by_itself = 1 AND state IN ('stopped', 'confirmed')))`,
  ).all(since) as { id: number; lastAt: number }[];
}

/** A silence as it is kept. */
export interface KeptSilence {
  fromAt: number;
  /** Not included. */
  toAt: number;
  state: 'stopped' | 'confirmed';
}

/** Silences of a source that were noted by themselves, and the times that somebody said were truly quiet. */
export function keptSilences(raw: RawConnection, sourceId: number): { noted: KeptSilence[]; quiet: KeptSilence[] } {
  const rows = prepared(
    raw,
    `SELECT from_at AS fromAt, to_at AS toAt, state FROM feed_gap WHERE source_id = ?
       AND ((by_itself = 1 AND state IN ('stopped', 'confirmed')) OR state = 'dismissed') ORDER BY from_at`,
  ).all(sourceId) as (Omit<KeptSilence, 'state'> & { state: 'stopped' | 'confirmed' | 'dismissed' })[];
  return {
    noted: rows.filter((row): row is KeptSilence => row.state !== 'dismissed'),
    quiet: rows.filter(({ state }) => state === 'dismissed') as unknown as KeptSilence[],
  };
}

/** Keeps the silences of a source in place of those noted before. */
export function keepSilences(
  raw: RawConnection,
  sourceId: number,
  silences: readonly KeptSilence[],
  now: number,
): void {
  prepared(raw, `DELETE FROM feed_gap WHERE source_id = ? AND by_itself = 1 AND state IN ('stopped', 'confirmed')`).run(
    sourceId,
  );
  const insert = prepared(
    raw,
    `INSERT INTO feed_gap (source_id, from_at, to_at, state, reason, changed_at, by_itself)
     VALUES (?, ?, ?, ?, 'nothing came', ?, 1)
     ON CONFLICT (source_id, from_at, to_at) DO UPDATE SET state = excluded.state, by_itself = 1`,
  );
  for (const { fromAt, toAt, state } of silences) insert.run(sourceId, fromAt, toAt, state, now);
}

/** Does a source feed a course that has not ended before a day? One that feeds none is as quiet as it should be. */
export function feedsAnyOn(raw: RawConnection, sourceId: number, day: number): boolean {
  return (
    prepared(
      raw,
      `SELECT EXISTS (SELECT 1 FROM source_course s JOIN course ON course.id = s.course_id
       WHERE s.source_id = ? AND (course.ends_day IS NULL OR course.ends_day >= ?))`,
    )
      .pluck()
      .get(sourceId, day) === 1
  );
}

/** Days on which a source sent anything, from an hour on, ascending. */
export function activeDays(raw: RawConnection, sourceId: number, fromHour: number, zone: string): number[] {
  const days = new Set([...hoursOf(raw, sourceId, fromHour).keys()].map((hour) => dayOf(hour * HOUR, zone)));
  return [...days].sort((a, b) => a - b);
}

/** Events of a source, and of all that feed one of its courses beside it, in some hours. */
export function eventsOfSource(raw: RawConnection, sourceId: number, fromHour: number, toHour: number) {
  return prepared(
    raw,
    `SELECT (SELECT total(events) FROM source_hour WHERE source_id = @sourceId AND hour >= @fromHour AND hour < @toHour) AS own,
       (SELECT total(events) FROM source_hour WHERE source_id IN (
          SELECT other.source_id FROM source_course own JOIN source_course other ON other.course_id = own.course_id
          WHERE own.source_id = @sourceId AND other.source_id <> @sourceId)
        AND hour >= @fromHour AND hour < @toHour) AS others`,
  ).get({ sourceId, fromHour, toHour }) as { own: number; others: number };
}
