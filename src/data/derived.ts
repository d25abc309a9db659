/** The tables derived from event: rebuilt for just the learners and days that were touched. */
import type { ActionKind } from '@/core/access/kinds';
import { derive, type Derived } from '@/core/access/derive';
import { IDLE_GAP, type AccessEvent } from '@/core/access/visits';
import { dayOf, startOfDay } from '@/core/time/zone';
import type { RawConnection } from './db';

function prepare(raw: RawConnection) {
  return {
    kinds: new Map(raw.prepare('SELECT id, kind FROM action').raw().all() as [number, ActionKind][]),
    anyIn: raw.prepare('SELECT 1 FROM event WHERE learner_id = ? AND at >= ? AND at < ? LIMIT 1').pluck(),
    events: raw
      .prepare(
        'SELECT at, course_id, item_id, action_id FROM event WHERE learner_id = ? AND at >= ? AND at < ? ORDER BY at, id',
      )
      .raw(),
    dropParts: raw.prepare('DELETE FROM visit_part WHERE learner_id = ? AND visit_start >= ? AND visit_start < ?'),
    dropDays: raw.prepare('DELETE FROM learner_day WHERE learner_id = ? AND day >= ? AND day < ?'),
    dropItems: raw.prepare('DELETE FROM item_day WHERE learner_id = ? AND day >= ? AND day < ?'),
    dropCourses: raw.prepare('DELETE FROM learner_course WHERE learner_id = ?'),
    part: raw.prepare('INSERT INTO visit_part VALUES (?, ?, ?, ?, ?, ?, ?)'),
    day: raw.prepare('INSERT INTO learner_day VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)'),
    item: raw.prepare('INSERT INTO item_day VALUES (?, ?, ?, ?, ?, ?, ?, ?)'),
    courses: raw.prepare(
      `INSERT INTO learner_course SELECT learner_id, course_id, max(last), sum(ms), sum(events)
       FROM learner_day WHERE learner_id = ? GROUP BY course_id`,
    ),
    stale: raw.prepare(
      `INSERT INTO drift_stale (enrolment_id, from_day) SELECT id, ? FROM enrolment WHERE learner_id = ?
       ON CONFLICT DO UPDATE SET from_day = min(from_day, excluded.from_day)`,
    ),
  };
}

type Statements = ReturnType<typeof prepare>;

function eventsBetween(sql: Statements, learnerId: number, from: number, to: number): AccessEvent[] {
  const rows = sql.events.all(learnerId, from, to) as [number, number, number | null, number][];
  const kinds = sql.kinds;
  const events = new Array<AccessEvent>(rows.length);
  for (let i = 0; i < rows.length; i += 1) {
    const row = rows[i];
    events[i] = { at: row[0], courseId: row[1], itemId: row[2], kind: kinds.get(row[3])! };
  }
  return events;
}

/**
 * The whole days around a stretch of time that no visit crosses the edges of: an edge is
 * clean when nothing happened in the idle gap before it.
 */
function cleanDays(sql: Statements, learnerId: number, from: number, to: number, zone: string): [number, number] {
  let first = dayOf(from, zone);
  let end = dayOf(to, zone) + 1;
  const isCrossed = (day: number) => {
    const edge = startOfDay(day, zone);
    return sql.anyIn.get(learnerId, edge - IDLE_GAP, edge) !== undefined;
  };
  while (isCrossed(first)) first -= 1;
  while (isCrossed(end)) end += 1;
  return [first, end];
}

function store(sql: Statements, learnerId: number, { parts, days, items }: Derived) {
  for (const p of parts) sql.part.run(learnerId, p.visitStart, p.courseId, p.first, p.last, p.ms, p.events);
  days.sort((a, b) => a.courseId - b.courseId || a.day - b.day);
  for (const d of days) {
    sql.day.run(learnerId, d.courseId, d.day, d.events, d.looked, d.worked, d.talked, d.other, d.ms, d.first, d.last);
  }
  items.sort((a, b) => a.itemId - b.itemId || a.day - b.day);
  for (const i of items) sql.item.run(learnerId, i.itemId, i.day, i.opens, i.events, i.ms, i.first, i.last);
}

/**
 * Derives anew what was touched, for up to `limit` learners, in the caller's write
 * transaction, and marks their drift stale. Returns how many learners were done; 0 = none left.
 */
export function deriveTouched(raw: RawConnection, zone: string, limit: number): number {
  const sql = prepare(raw);
  const touched = raw
    .prepare('SELECT learner_id, from_at, to_at FROM touched ORDER BY learner_id LIMIT ?')
    .all(limit) as {
    learner_id: number;
    from_at: number;
    to_at: number;
  }[];
  const done = raw.prepare('DELETE FROM touched WHERE learner_id = ?');
  for (const { learner_id: learnerId, from_at, to_at } of touched) {
    const [first, end] = cleanDays(sql, learnerId, from_at, to_at, zone);
    const [from, to] = [startOfDay(first, zone), startOfDay(end, zone)];
    sql.dropParts.run(learnerId, from, to);
    sql.dropDays.run(learnerId, first, end);
    sql.dropItems.run(learnerId, first, end);
    store(sql, learnerId, derive(eventsBetween(sql, learnerId, from, to), zone));
    sql.dropCourses.run(learnerId);
    sql.courses.run(learnerId);
    sql.stale.run(first, learnerId);
    done.run(learnerId);
  }
  return touched.length;
}

/** Where a stored derived row differs from what its learner's events give. */
export interface Difference {
  table: string;
  learnerId: number;
  stored: number;
  recomputed: number;
}

/** Recomputes everything of one learner and compares it with what is stored, row by row. */
export function compareDerived(raw: RawConnection, learnerId: number, zone: string): Difference[] {
  const sql = prepare(raw);
  const fresh = derive(eventsBetween(sql, learnerId, -8.64e15, 8.64e15), zone);
  const expected: Record<string, (number | null)[][]> = {
    visit_part: fresh.parts.map((p) => [p.visitStart, p.courseId, p.first, p.last, p.ms, p.events]),
    learner_day: fresh.days.map((d) => [
      d.courseId,
      d.day,
      d.events,
      d.looked,
      d.worked,
      d.talked,
      d.other,
      d.ms,
      d.first,
      d.last,
    ]),
    item_day: fresh.items.map((i) => [i.itemId, i.day, i.opens, i.events, i.ms, i.first, i.last]),
  };
  const courses = new Map<number, [number, number, number, number]>();
  for (const d of fresh.days) {
    const sum = courses.get(d.courseId) ?? [d.courseId, 0, 0, 0];
    courses.set(d.courseId, [d.courseId, Math.max(sum[1], d.last ?? 0), sum[2] + d.ms, sum[3] + d.events]);
  }
  expected.learner_course = [...courses.values()];
  return Object.entries(expected).flatMap(([table, rows]) => {
    const stored = raw.prepare(`SELECT * FROM ${table} WHERE learner_id = ?`).raw().all(learnerId) as number[][];
    const have = new Set(stored.map((row) => row.slice(1).join('/')));
    const differ = rows.length !== stored.length || rows.some((row) => !have.has(row.join('/')));
    return differ ? [{ table, learnerId, stored: stored.length, recomputed: rows.length }] : [];
  });
}

/** Every learner with events, for a check of all. */
export function learnersWithEvents(raw: RawConnection): number[] {
  return raw
    .prepare(
      `SELECT id FROM learner WHERE EXISTS (SELECT 1 FROM event WHERE learner_id = learner.id)
       OR EXISTS (SELECT 1 FROM learner_course WHERE learner_id = learner.id)`,
    )
    .pluck()
    .all() as number[];
}
