/**
 * The tables derived from event: rebuilt for just the learners and days that were touched.
 *
 * What is derived is kept in tables of the connection's own (the *stage*) until all of it is
 * there, and then takes the place of what stood before in one short transaction: a reader sees
 * the days from before an import or those from after it, and nobody waits for the deriving.
 * The standings and the drift that hang on them are noted as stale with it, and follow.
 */
import type { ActionKind } from '@/core/access/kinds';
import { derive, type Derived } from '@/core/access/derive';
import { sumsByLearner } from '@/core/item-use/packed-days';
import { IDLE_GAP, type AccessEvent } from '@/core/access/visits';
import { dayOf, startOfDay } from '@/core/time/zone';
import type { RawConnection } from '../db';
import {
  Packer,
  closePackedStage,
  openPackedStage,
  packedDays,
  stagePacked,
  stagedDays,
  storePacked,
} from '../item-use/packed-days';
import { staleProgress } from '../completion/enrolment-progress';
import { EVIDENCE_OF_DAYS, storeEvidence } from '../drift/evidence';
import { noteStale } from '../drift/stale';
import { closedTo, goneOf } from '../privacy/retention';
import { ACCESS_TABLES } from './tables';
import { touchedAfter, type Touched } from './touched';

/** Derived tables: their keys, and what bounds a learner's touched days in them. */
const STAGED = {
  visit_course: {
    key: 'learner_id, visit_start, course_id',
    within: 'visit_start >= @from_at AND visit_start < @to_at',
    stays: `d.visit_start < ${closedTo('to_at', 'd.course_id')} OR d.visit_start < ifnull((SELECT to_at FROM gone
      WHERE gone.course_id = d.course_id AND kind = 'visits'), -8.64e15)`,
  },
  learner_day: {
    key: 'learner_id, course_id, day',
    within: 'day >= @first_day AND day < @end_day',
    stays: `d.day <= ${closedTo('to_day', 'd.course_id')}`,
  },
  item_day: {
    key: 'learner_id, item_id, day',
    within: 'day >= @first_day AND day < @end_day',
    stays: `d.day <= ${closedTo('to_day', '(SELECT course_id FROM item WHERE item.id = d.item_id)')}`,
  },
} as const;
const TABLES = Object.keys(STAGED) as (keyof typeof STAGED)[];

/** The columns of a derived table, in the order in which its rows are made. */
const columnsOf = (table: keyof typeof ACCESS_TABLES) => Object.keys(ACCESS_TABLES[table]).join(', ');

/** The word of a log that says that something was handed in. */
const HANDING_IN = 'submitted';

/** Makes the stage's tables, or empties those of before. */
export function openStage(raw: RawConnection): void {
  raw.exec(`DROP TABLE IF EXISTS temp.stage_learner;
    CREATE TABLE temp.stage_learner (learner_id INTEGER PRIMARY KEY, revision INTEGER NOT NULL, first_day INTEGER NOT NULL,
      end_day INTEGER NOT NULL, from_at INTEGER NOT NULL, to_at INTEGER NOT NULL)`);
  for (const table of TABLES) {
    raw.exec(`DROP TABLE IF EXISTS temp.stage_${table};
      CREATE TABLE temp.stage_${table} AS SELECT ${columnsOf(table)} FROM main.${table} WHERE 0`);
  }
  openPackedStage(raw);
}

/** Gives the stage's room back. */
export function closeStage(raw: RawConnection): void {
  raw.exec('DROP TABLE IF EXISTS temp.stage_learner');
  for (const table of TABLES) raw.exec(`DROP TABLE IF EXISTS temp.stage_${table}`);
  closePackedStage(raw);
}

function prepare(raw: RawConnection) {
  return {
    kinds: new Map(raw.prepare('SELECT id, kind FROM action').raw().all() as [number, ActionKind][]),
    submits: new Set(raw.prepare(`SELECT id FROM action WHERE word = '${HANDING_IN}'`).pluck().all() as number[]),
    anyIn: raw.prepare('SELECT 1 FROM event WHERE learner_id = ? AND at >= ? AND at < ? LIMIT 1').pluck(),
    events: raw
      .prepare(
        'SELECT at, course_id, item_id, action_id FROM event WHERE learner_id = ? AND at >= ? AND at < ? ORDER BY at, id',
      )
      .raw(),
  };
}

type Reading = ReturnType<typeof prepare>;

function eventsBetween(sql: Reading, learnerId: number, from: number, to: number): AccessEvent[] {
  const rows = sql.events.all(learnerId, from, to) as [number, number, number | null, number][];
  const kinds = sql.kinds;
  const events = new Array<AccessEvent>(rows.length);
  for (let i = 0; i < rows.length; i += 1) {
    const row = rows[i];
    events[i] = {
      at: row[0],
      courseId: row[1],
      itemId: row[2],
      kind: kinds.get(row[3])!,
      submits: sql.submits.has(row[3]),
    };
  }
  return events;
}

/**
 * The whole days around a stretch of time that no visit crosses the edges of: an edge is
 * clean when nothing happened in the idle gap before it.
 */
function cleanDays(sql: Reading, learnerId: number, from: number, to: number, zone: string): [number, number] {
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

function prepareStage(raw: RawConnection) {
  return {
    learner: raw.prepare('INSERT INTO temp.stage_learner VALUES (?, ?, ?, ?, ?, ?)'),
    part: raw.prepare('INSERT INTO temp.stage_visit_course VALUES (?, ?, ?, ?, ?, ?, ?)'),
    day: raw.prepare('INSERT INTO temp.stage_learner_day VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)'),
    item: raw.prepare('INSERT INTO temp.stage_item_day VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)'),
  };
}

/** Columns of the derived tables, after the learner's, in the order of the tables. */
const visitCourseRow = (p: Derived['parts'][number]) => [p.visitStart, p.courseId, p.first, p.last, p.ms, p.events];
const dayRow = (d: Derived['days'][number]) => [
  ...[d.courseId, d.day, d.events, d.looked, d.worked, d.talked, d.other],
  ...[d.ms, d.first, d.last],
];
const itemRow = (i: Derived['items'][number]) => [
  ...[i.itemId, i.day, i.opens, i.events, i.ms, i.first, i.last],
  ...[i.talked, i.submitted, i.otherLast],
];

function stage(sql: ReturnType<typeof prepareStage>, learnerId: number, { parts, days, items }: Derived) {
  for (const part of parts) sql.part.run(learnerId, visitCourseRow(part));
  days.sort((a, b) => a.courseId - b.courseId || a.day - b.day);
  for (const day of days) sql.day.run(learnerId, dayRow(day));
  items.sort((a, b) => a.itemId - b.itemId || a.day - b.day);
  for (const item of items) sql.item.run(learnerId, itemRow(item));
}

/**
 * Derives some touched learners onto the stage, from one snapshot of the log.
 * @param after the last learner done before
 * @returns the last learner done, or null when none are left
 */
export function stageTouched(raw: RawConnection, zone: string, after: number, limit: number): number | null {
  return raw.transaction(() => {
    const touched = touchedAfter(raw, after, limit);
    stageLearners(raw, zone, touched);
    return touched.at(-1)?.learner_id ?? null;
  })();
}

function stageLearners(raw: RawConnection, zone: string, touched: readonly Touched[], again = false): void {
  const [reading, writing] = [prepare(raw), prepareStage(raw)];
  const packer = new Packer(zone);
  for (const { learner_id: learnerId, from_at, to_at, revision } of touched) {
    const [first, end] = cleanDays(reading, learnerId, from_at, to_at, zone);
    const [from, to] = [startOfDay(first, zone), startOfDay(end, zone)];
    writing.learner.run(learnerId, revision, first, end, from, to);
    const derived = derive(eventsBetween(reading, learnerId, from, to), zone);
    stage(writing, learnerId, derived);
    packer.add(learnerId, derived.deeds);
  }
  stagePacked(raw, packer, again);
}

/**
 * Stores the stage, in the caller's write transaction, with what it makes stale. Whoever was touched again meanwhile is derived
 * once more, from the log as it is now; whom somebody else has derived since stays as they have it.
 */
export function storeStage(raw: RawConnection, zone: string): void {
  const again = raw
    .prepare('SELECT t.* FROM touched t JOIN temp.stage_learner s USING (learner_id) WHERE t.revision <> s.revision')
    .all() as Touched[];
  const done = raw
    .prepare('SELECT learner_id FROM temp.stage_learner WHERE learner_id NOT IN (SELECT learner_id FROM touched)')
    .pluck()
    .all() as number[];
  const outdated = [...again.map((one) => one.learner_id), ...done];
  for (const name of outdated.length > 0 ? ['learner', ...TABLES] : []) {
    const leave = raw.prepare(`DELETE FROM temp.stage_${name} WHERE learner_id = ?`);
    for (const learnerId of outdated) leave.run(learnerId);
  }
  stageLearners(raw, zone, again, true);
  const hasClosed = raw.prepare('SELECT 1 FROM gone UNION ALL SELECT 1 FROM archive').get() !== undefined;
  storePacked(raw, stagedDays(raw), new Set(outdated));
  const bounds = raw.prepare('SELECT learner_id, first_day, end_day, from_at, to_at FROM temp.stage_learner').all();
  for (const table of TABLES) {
    const { key, within, stays } = STAGED[table];
    // Of a course whose log is closed, what was derived stays: there is nothing to derive it from.
    const isOpen = hasClosed ? `NOT (${stays})` : '1';
    const drop = raw.prepare(
      `DELETE FROM main.${table} AS d WHERE learner_id = @learner_id AND ${within} AND ${isOpen}`,
    );
    for (const bound of bounds) drop.run(bound);
    raw.exec(`INSERT INTO main.${table} (${columnsOf(table)})
      SELECT ${columnsOf(table)} FROM temp.stage_${table} AS d WHERE ${isOpen} ORDER BY ${key}`);
  }
  raw.exec(`DELETE FROM learner_course WHERE learner_id IN (SELECT learner_id FROM temp.stage_learner);
    INSERT INTO learner_course (learner_id, course_id, last_at, ms, events) SELECT d.learner_id, d.course_id, max(d.last), sum(d.ms), sum(d.events)
      FROM temp.stage_learner AS s CROSS JOIN main.learner_day AS d ON d.learner_id = s.learner_id
      GROUP BY d.learner_id, d.course_id`);
  const staged = 'temp.stage_learner s JOIN enrolment e ON e.learner_id = s.learner_id';
  noteStale(raw, `SELECT e.id, s.first_day FROM ${staged}`);
  staleProgress(raw, `SELECT e.id FROM ${staged}`);
  storeEvidence(raw, EVIDENCE_OF_DAYS('temp.stage_learner_day'));
  raw.exec('DELETE FROM touched WHERE learner_id IN (SELECT learner_id FROM temp.stage_learner)');
}

/** Where a stored derived row differs from what its learner's events give. */
export interface Difference {
  table: string;
  learnerId: number;
  stored: number;
  recomputed: number;
}

/**
 * Recomputes everything of one learner and compares it with what is stored, row by row.
 * @param packed the sums of all packed days, by learner
 */
export function compareDerived(
  raw: RawConnection,
  learnerId: number,
  zone: string,
  packed: ReadonlyMap<number, number>,
): Difference[] {
  const fresh = derive(eventsBetween(prepare(raw), learnerId, -8.64e15, 8.64e15), zone);
  const expected: Record<string, (number | null)[][]> = {
    visit_course: fresh.parts.map(visitCourseRow),
    learner_day: fresh.days.map(dayRow),
    item_day: fresh.items.map(itemRow),
  };
  const courses = new Map<number, [number, number, number, number]>();
  for (const d of fresh.days) {
    const sum = courses.get(d.courseId) ?? [d.courseId, 0, 0, 0];
    courses.set(d.courseId, [d.courseId, Math.max(sum[1], d.last ?? 0), sum[2] + d.ms, sum[3] + d.events]);
  }
  expected.learner_course = [...courses.values()];
  const packer = new Packer(zone);
  packer.add(learnerId, fresh.deeds);
  const sums = new Map<number, number>();
  for (const day of packer.packed()) sumsByLearner(day, sums);
  const [stored, recomputed] = [packed.get(learnerId) ?? 0, sums.get(learnerId) ?? 0];
  const inPacked = stored === recomputed ? [] : [{ table: 'packed_day', learnerId, stored, recomputed }];
  const inTables = Object.entries(expected).flatMap(([table, rows]) => {
    const stored = raw
      .prepare(`SELECT ${columnsOf(table as keyof typeof ACCESS_TABLES)} FROM ${table} WHERE learner_id = ?`)
      .raw()
      .all(learnerId) as number[][];
    const have = new Set(stored.map((row) => row.slice(1).join('/')));
    const differ = rows.length !== stored.length || rows.some((row) => !have.has(row.join('/')));
    return differ ? [{ table, learnerId, stored: stored.length, recomputed: rows.length }] : [];
  });
  return [...inTables, ...inPacked];
}

/** A sum over all packed days by learner, for a check of all. */
export function sumPackedDays(raw: RawConnection): Map<number, number> {
  const sums = new Map<number, number>();
  const courses = raw.prepare('SELECT DISTINCT course_id FROM packed_day').pluck().all() as number[];
  for (const courseId of courses) for (const day of packedDays(raw, courseId)) sumsByLearner(day, sums);
  return sums;
}

/** Every learner with events or figures who does not wait to be derived, for a check of all. */
export function learnersToCheck(raw: RawConnection): number[] {
  return raw
    .prepare(
      `SELECT id FROM learner WHERE (EXISTS (SELECT 1 FROM event WHERE learner_id = learner.id)
         OR EXISTS (SELECT 1 FROM learner_course WHERE learner_id = learner.id))
       AND id NOT IN (SELECT learner_id FROM touched)
       -- What was derived from events that are no longer in the log cannot be derived again.
       AND id NOT IN (SELECT learner_id FROM learner_course WHERE course_id IN (
         SELECT course_id FROM log_closed UNION ${goneOf('visits')}))`,
    )
    .pluck()
    .all() as number[];
}
