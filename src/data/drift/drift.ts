/** Drift readings: what they are made of, what is stored, and what has to be read anew. */
import type { BandEdges } from '@/core/drift/bands';
import type { CourseDates, Member, StoredReading } from '@/core/drift/readings';
import type { Sentence } from '@/core/drift/sentence';
import { factsNeeded } from '@/core/drift/model';
import type { Model, NoReading, Reason } from '@/core/drift/types';
import { dayOf } from '@/core/time/zone';
import { prepared, type Db, type RawConnection } from '../db';
import { goneOf } from '../privacy/retention';
import { stoppedLog } from '../feed/stopped-log';
import { readEvidence } from './evidence';
import { factReader } from './facts';
import type { Group } from './stale';

/** A group, and the first of the days that are read of it. */
export interface ReadingGroup extends Group {
  fromDay: number;
}

/** Every group there is of which readings are kept. */
export function allGroups(raw: RawConnection): Group[] {
  return raw
    .prepare(
      `SELECT DISTINCT course_id AS courseId, group_id AS groupId FROM enrolment WHERE course_id NOT IN (${goneOf('readings')})`,
    )
    .all() as Group[];
}

/** When a course runs, which of its days do not count, and what it tells of. */
export function courseDates(raw: RawConnection, courseId: number, zone: string): CourseDates {
  const course = prepared(raw, 'SELECT starts_day, ends_day FROM course WHERE id = ?').get(courseId) as {
    starts_day: number | null;
    ends_day: number | null;
  };
  const breaks = prepared(raw, 'SELECT from_day, to_day FROM course_break WHERE course_id = ?').raw().all(courseId);
  const gaps = prepared(
    raw,
    `SELECT from_at, to_at FROM feed_gap JOIN source_course USING (source_id) WHERE course_id = ? AND state = 'confirmed'`,
  )
    .raw()
    .all(courseId) as [number, number][];
  return {
    start: course.starts_day,
    end: course.ends_day,
    breaks: breaks as [number, number][],
    feedGaps: gaps.map(([from, to]) => [dayOf(from, zone), dayOf(Math.max(from, to - 1), zone)]),
    silent: stoppedLog(raw, courseId, zone),
    evidence: readEvidence(raw, courseId, zone),
  };
}

interface EnrolmentRow {
  id: number;
  learner_id: number;
  enrolled_day: number;
  ended_day: number | null;
  status: string;
  /** The last reading before, as JSON. */
  before: string | null;
}

/** The members of a group with the facts that a model needs, and their last readings before `fromDay`. */
export function groupMembers(
  raw: RawConnection,
  { courseId, groupId, fromDay }: ReadingGroup,
  model: Model,
  zone: string,
): Member[] {
  const enrolments = prepared(
    raw,
    `SELECT id, learner_id, enrolled_day, ended_day, status,
         (SELECT json_array(score, band) FROM drift_reading WHERE enrolment_id = enrolment.id AND day < @fromDay
          ORDER BY day DESC LIMIT 1) AS before
       FROM enrolment WHERE course_id = @courseId AND group_id IS @groupId ORDER BY id`,
  ).all({ courseId, groupId, fromDay }) as EnrolmentRow[];
  const factsOf = factReader(raw, factsNeeded(model), zone);
  return enrolments.map((row) => {
    const [score, band] = row.before ? JSON.parse(row.before) : [null, null];
    return {
      enrolmentId: row.id,
      enrolledDay: row.enrolled_day,
      endedDay: row.status === 'active' ? null : (row.ended_day ?? row.enrolled_day),
      before: row.before ? { score, band } : null,
      ...factsOf({ enrolmentId: row.id, learnerId: row.learner_id, courseId, enrolledDay: row.enrolled_day }),
    };
  });
}

/** A reading as its row holds it: what it is made of as JSON. */
export type ReadingRow = [
  enrolmentId: number,
  day: number,
  score: number | null,
  band: number | null,
  explanation: string,
  daysAway: number | null,
  hasCome: number | null,
];

export function readingRow(reading: StoredReading): ReadingRow {
  const { enrolmentId, day, score, band, reasons, notCounted, untold, stoodOn, without, absence } = reading;
  const explanation: Explanation = {
    reasons,
    notCounted,
    ...(untold.length > 0 && { untold }),
    ...(without !== null && { without }),
    ...(stoodOn !== null && { stoodOn }),
  };
  const hasCome = absence === null ? null : Number(absence.hasCome);
  return [enrolmentId, day, score, band, JSON.stringify(explanation), absence?.days ?? null, hasCome];
}

function dropReadings(raw: RawConnection, { courseId, groupId }: Group, fromDay: number, toDay: number): void {
  raw
    .prepare(
      `DELETE FROM drift_reading WHERE day >= ? AND day <= ?
       AND enrolment_id IN (SELECT id FROM enrolment WHERE course_id = ? AND group_id IS ?)`,
    )
    .run(fromDay, toDay, courseId, groupId);
}

function noteFirst(raw: RawConnection, day: number): void {
  raw
    .prepare(
      `INSERT INTO setting (name, value) VALUES ('reading_first', @day) ON CONFLICT DO UPDATE
       SET value = CAST(min(CAST(value AS INTEGER), CAST(@day AS INTEGER)) AS TEXT)`,
    )
    .run({ day: String(day) });
}

/**
 * Replaces the readings of a group between two days.
 * @param days both included; nothing stays of what was stored of them
 */
export function storeReadings(
  raw: RawConnection,
  group: ReadingGroup,
  readings: readonly ReadingRow[],
  days: readonly [from: number, to: number],
): void {
  // Readings that are no longer kept are not made anew.
  const gone = prepared(raw, `SELECT to_day FROM gone WHERE course_id = ? AND kind = 'readings'`)
    .pluck()
    .get(group.courseId) as number | undefined;
  dropReadings(raw, group, Math.max(days[0], (gone ?? -Infinity) + 1), days[1]);
  if (readings.length > 0) noteFirst(raw, group.fromDay);
  const insert = prepared(
    raw,
    'INSERT INTO drift_reading (enrolment_id, day, score, band, reasons, days_away, has_come) VALUES (?, ?, ?, ?, ?, ?, ?)',
  );
  for (const row of readings) if (gone === undefined || row[1] > gone) insert.run(row);
}

/**
 * Where the readings of a group begin: on the day from which somebody was in the course, or where
 * they have begun, but no further back than `furthest` unless some are there already.
 */
export function firstDayToRead(raw: RawConnection, { courseId, groupId }: Group, furthest: number): number {
  const row = raw
    .prepare(
      // The first of each enrolment is one step in the index, however many there are.
      `SELECT min((SELECT min(day) FROM drift_reading r WHERE r.enrolment_id = e.id)) AS first,
         max(min(e.enrolled_day), ifnull(c.starts_day, min(e.enrolled_day))) AS "from"
       FROM enrolment e JOIN course c ON c.id = e.course_id
       WHERE e.course_id = ? AND e.group_id IS ?`,
    )
    .get(courseId, groupId) as { first: number | null; from: number };
  return Math.max(row.from, Math.min(row.first ?? Infinity, furthest));
}

/** Readings of days that have not come: a clock that was ahead has left them. Returns how many went. */
export function dropReadingsAfter(raw: RawConnection, day: number): number {
  return raw.prepare('DELETE FROM drift_reading WHERE day > ?').run(day).changes;
}

/** Readings of a group from a day on, as stored. */
export function storedReadings(raw: RawConnection, group: ReadingGroup) {
  return raw
    .prepare(
      `SELECT enrolment_id AS enrolmentId, day, score, band FROM drift_reading
       WHERE day >= ? AND enrolment_id IN (SELECT id FROM enrolment WHERE course_id = ? AND group_id IS ?)`,
    )
    .all(group.fromDay, group.courseId, group.groupId) as {
    enrolmentId: number;
    day: number;
    score: number | null;
    band: number | null;
  }[];
}

/** Everybody's readings by day, for joins of many people: neighbours in an index of their own. */
export function readingsByDay(db: Db, alias: string) {
  return db.raw('drift_reading AS ?? INDEXED BY drift_reading_day', [alias]);
}

/** What is kept with a reading to explain it. */
export interface Explanation {
  reasons: Reason[];
  notCounted: string[];
  /** Those of what was not counted of which the course tells nothing; left out for none. */
  untold?: string[];
  /** Why there is no reading, where there is none. */
  without?: NoReading;
  /** The day on which the log stopped, where the reading stands as it stood then. */
  stoodOn?: number;
}

/** An explanation as it was stored; nothing for no reading. */
export function readExplanation(stored: string | null): Explanation {
  if (stored === null) return { reasons: [], notCounted: [] };
  const { reasons, ...rest }: Explanation = JSON.parse(stored);
  const says = (kept: unknown) =>
    typeof kept === 'string' ? { name: 'kept' as const, text: kept } : (kept as Sentence);
  return { reasons: reasons.map((reason) => ({ ...reason, says: says(reason.says) })), ...rest };
}

/**
 * ``combine` of core/drift/bands` in SQL, for lists that are sorted and cut by the database:
 * over rows of readings, under the alias given, grouped by learner.
 */
export function combinedScore(alias: string): string {
  return `(0.6 * max(${alias}.score) + 0.4 * avg(${alias}.score))`;
}

export function combinedBand({ slipping, adrift }: BandEdges, margin: number, alias: string): string {
  const score = combinedScore(alias);
  return `CASE WHEN count(${alias}.score) < 2 THEN max(${alias}.band)
    WHEN ${score} >= ${adrift} OR (max(${alias}.band) = 2 AND ${score} > ${adrift - margin}) THEN 2
    WHEN ${score} >= ${slipping} OR (max(${alias}.band) >= 1 AND ${score} > ${slipping - margin}) THEN 1
    ELSE 0 END`;
}
