/** Drift readings: what they are made of, what is stored, and what has to be read anew. */
import type { BandEdges } from '@/core/drift/bands';
import type { CourseDates, Member, StoredReading } from '@/core/drift/readings';
import type { FactorName, Reason } from '@/core/drift/types';
import { dayOf } from '@/core/time/zone';
import type { RawConnection } from './db';

/** A course's group (or those of a course in no group), whose readings hang together. */
export interface ReadingGroup {
  courseId: number;
  groupId: number | null;
  fromDay: number;
}

/** Groups with a stale reading, each with the first day concerned. */
export function staleGroups(raw: RawConnection, limit: number): ReadingGroup[] {
  return raw
    .prepare(
      `SELECT e.course_id AS courseId, e.group_id AS groupId, min(s.from_day) AS fromDay
       FROM drift_stale s JOIN enrolment e ON e.id = s.enrolment_id GROUP BY 1, 2 LIMIT ?`,
    )
    .all(limit) as ReadingGroup[];
}

/** Every group there is. */
export function allGroups(raw: RawConnection): Omit<ReadingGroup, 'fromDay'>[] {
  return raw
    .prepare('SELECT DISTINCT course_id AS courseId, group_id AS groupId FROM enrolment')
    .all() as ReadingGroup[];
}

export function markAllStale(raw: RawConnection, fromDay: number): void {
  raw
    .prepare(
      `INSERT INTO drift_stale (enrolment_id, from_day) SELECT id, @fromDay FROM enrolment WHERE true
       ON CONFLICT DO UPDATE SET from_day = min(from_day, @fromDay)`,
    )
    .run({ fromDay });
}

export function clearStale(raw: RawConnection, { courseId, groupId }: ReadingGroup): void {
  raw
    .prepare(
      'DELETE FROM drift_stale WHERE enrolment_id IN (SELECT id FROM enrolment WHERE course_id = ? AND group_id IS ?)',
    )
    .run(courseId, groupId);
}

export function courseDates(raw: RawConnection, courseId: number, zone: string): CourseDates {
  const course = raw.prepare('SELECT starts_day, ends_day FROM course WHERE id = ?').get(courseId) as {
    starts_day: number | null;
    ends_day: number | null;
  };
  const breaks = raw.prepare('SELECT from_day, to_day FROM course_break WHERE course_id = ?').raw().all(courseId);
  const gaps = raw
    .prepare(
      `SELECT from_at, to_at FROM feed_gap JOIN source_course USING (source_id) WHERE course_id = ? AND state = 'confirmed'`,
    )
    .raw()
    .all(courseId) as [number, number][];
  return {
    start: course.starts_day,
    end: course.ends_day,
    breaks: breaks as [number, number][],
    feedGaps: gaps.map(([from, to]) => [dayOf(from, zone), dayOf(Math.max(from, to - 1), zone)]),
  };
}

/** The members of a group with their active days, and their last readings before `fromDay`. */
export function groupMembers(raw: RawConnection, { courseId, groupId, fromDay }: ReadingGroup): Member[] {
  const enrolments = raw
    .prepare(
      `SELECT id, learner_id, enrolled_day, ended_day, status,
         (SELECT json_array(score, band) FROM drift_reading WHERE enrolment_id = enrolment.id AND day < @fromDay
          ORDER BY day DESC LIMIT 1) AS before
       FROM enrolment WHERE course_id = @courseId AND group_id IS @groupId ORDER BY id`,
    )
    .all({ courseId, groupId, fromDay }) as {
    id: number;
    learner_id: number;
    enrolled_day: number;
    ended_day: number | null;
    status: string;
    before: string | null;
  }[];
  const active = raw
    .prepare(
      'SELECT day, worked + talked FROM learner_day WHERE learner_id = ? AND course_id = ? AND events > 0 ORDER BY day',
    )
    .raw();
  return enrolments.map((row) => {
    const [score, band] = row.before ? JSON.parse(row.before) : [null, null];
    const days = active.all(row.learner_id, courseId) as [day: number, efforts: number][];
    return {
      enrolmentId: row.id,
      enrolledDay: row.enrolled_day,
      endedDay: row.status === 'active' ? null : (row.ended_day ?? row.enrolled_day),
      activeDays: days.map(([day]) => day),
      efforts: days.filter(([, efforts]) => efforts > 0),
      before: row.before ? { score, band } : null,
    };
  });
}

/** Replaces the readings of the members from `fromDay` to `toDay`, or to the end. */
export function storeReadings(
  raw: RawConnection,
  group: ReadingGroup,
  readings: readonly StoredReading[],
  toDay = Number.MAX_SAFE_INTEGER,
): void {
  raw
    .prepare(
      `DELETE FROM drift_reading WHERE day >= ? AND day <= ?
       AND enrolment_id IN (SELECT id FROM enrolment WHERE course_id = ? AND group_id IS ?)`,
    )
    .run(group.fromDay, toDay, group.courseId, group.groupId);
  raw
    .prepare(
      `INSERT INTO setting (name, value) VALUES ('reading_first', @day) ON CONFLICT DO UPDATE
       SET value = CAST(min(CAST(value AS INTEGER), CAST(@day AS INTEGER)) AS TEXT)`,
    )
    .run({ day: String(group.fromDay) });
  const insert = raw.prepare(
    'INSERT INTO drift_reading (enrolment_id, day, score, band, reasons) VALUES (?, ?, ?, ?, ?)',
  );
  for (const { enrolmentId, day, score, band, reasons, notCounted } of readings) {
    insert.run(enrolmentId, day, score, band, JSON.stringify({ reasons, notCounted } satisfies Explanation));
  }
}

/** A group's earliest reading and the day from which it could have been read; null where nothing is missing. */
export function missingPast(
  raw: RawConnection,
  { courseId, groupId }: Omit<ReadingGroup, 'fromDay'>,
): { first: number; from: number } | null {
  const row = raw
    .prepare(
      // The first of each enrolment is one step in the index, however many there are.
      `SELECT min((SELECT min(day) FROM drift_reading r WHERE r.enrolment_id = e.id)) AS first,
         max(min(e.enrolled_day), ifnull(c.starts_day, min(e.enrolled_day))) AS "from"
       FROM enrolment e JOIN course c ON c.id = e.course_id
       WHERE e.course_id = ? AND e.group_id IS ?`,
    )
    .get(courseId, groupId) as { first: number | null; from: number };
  return row.first === null || row.first <= row.from ? null : { first: row.first, from: row.from };
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

/** What is kept with a reading to explain it. */
export interface Explanation {
  reasons: Reason[];
  notCounted: FactorName[];
}

/**
 * `core/drift/bands.combine` in SQL, for lists that are sorted and cut by the database:
 * over rows of readings, under the alias given, grouped by learner.
 */
export function combinedScore(alias: string): string {
  return `(0.6 * max(${alias}.score) + 0.4 * avg(${alias}.score))`;
}

export function combinedBand({ slipping, adrift }: BandEdges, margin: number, alias: string): string {
  const score = combinedScore(alias);
  return `CASE WHEN max(${alias}.score) IS NULL THEN NULL
    WHEN ${score} >= ${adrift} OR (max(${alias}.band) = 2 AND ${score} > ${adrift - margin}) THEN 2
    WHEN ${score} >= ${slipping} OR (max(${alias}.band) >= 1 AND ${score} > ${slipping - margin}) THEN 1
    ELSE 0 END`;
}
