/**
 * Readings of drift that are no longer what the facts give: noted by enrolment, with the first day
 * concerned, in the transaction that changes the facts.
 *
 * A reading hangs on the one of the day before (a band is held), and on those of the same group (its
 * median), so what touches a day touches every later one of the whole group.
 */
import { prepared, type Db, type RawConnection } from '../db';

/** A number that stands for one noting. Thirty bits, so that those of a group can be added up. */
const NEW_REVISION = '(random() & 1073741823)';

/** From a day before any there is. */
export const FROM_THE_BEGINNING = -1;

/**
 * SQL that notes the enrolments, each with a first day, that a SELECT of two columns gives.
 * `recent` says that the last days wait to be read too; else only those before them.
 */
function noting(select: string): string {
  return `INSERT INTO drift_stale (enrolment_id, from_day, recent, revision)
    SELECT which.*, 1, ${NEW_REVISION} FROM (${select}) AS which WHERE true
    ON CONFLICT DO UPDATE SET from_day = min(from_day, excluded.from_day), recent = 1, revision = excluded.revision`;
}

/** Notes the enrolments, each with a first day, that a SELECT of two columns gives. */
export function noteStale(raw: RawConnection, select: string, params: Record<string, unknown> = {}): void {
  prepared(raw, noting(select)).run(params);
}

/** The same inside of a transaction of Knex. */
export async function noteStaleIn(trx: Db, select: string, params: Record<string, number | string>): Promise<void> {
  await trx.raw(noting(select).replaceAll('@', ':'), params);
}

/** Every enrolment of a course, from a day on. */
export const OF_COURSE = 'SELECT id, @fromDay FROM enrolment WHERE course_id = @courseId';

/** Everybody in the courses that a source feeds, from a day on. */
export const OF_SOURCE =
  'SELECT enrolment.id, @fromDay FROM enrolment JOIN source_course USING (course_id) WHERE source_id = @sourceId';

/** Everybody, from a day on. */
export const OF_ALL = 'SELECT id, @fromDay FROM enrolment';

/** A course's group (or those of a course in no group), whose readings hang together. */
export interface Group {
  courseId: number;
  groupId: number | null;
}

export function groupKey({ courseId, groupId }: Group): string {
  return `${courseId}/${groupId ?? ''}`;
}

/** What waits to be read of a group. */
export interface StaleGroup extends Group {
  fromDay: number;
  /** Stands for the notings as they are; another one changes it. */
  revision: number;
  /** Enrolments that are noted. */
  waiting: number;
}

const GROUPS = `SELECT e.course_id AS courseId, e.group_id AS groupId, min(s.from_day) AS fromDay,
  total(s.revision) + count(*) AS revision, count(*) AS waiting
  FROM drift_stale s JOIN enrolment e ON e.id = s.enrolment_id`;

/** Groups whose last days wait to be read, but for those in which a progress has to be derived first. */
export function groupsToRead(raw: RawConnection): StaleGroup[] {
  return raw
    .prepare(
      `${GROUPS} WHERE (e.course_id, ifnull(e.group_id, 0)) NOT IN (SELECT o.course_id, ifnull(o.group_id, 0)
         FROM progress_stale JOIN enrolment o ON o.id = progress_stale.enrolment_id)
       GROUP BY 1, 2 HAVING max(s.recent) = 1`,
    )
    .all() as StaleGroup[];
}

/** Has everybody who waits for a reading one of a day, be it of before the last change? */
export function isDayRead(raw: RawConnection, day: number): boolean {
  return (
    prepared(
      raw,
      `SELECT 1 FROM drift_stale s JOIN enrolment e ON e.id = s.enrolment_id
       WHERE s.recent = 1 AND e.status = 'active' AND e.enrolled_day <= @day
         AND NOT EXISTS (SELECT 1 FROM drift_reading r WHERE r.enrolment_id = e.id AND r.day = @day) LIMIT 1`,
    ).get({ day }) === undefined
  );
}

/**
 * A group of which only days further back wait; null when there is none.
 * @param first courses that somebody waits for
 */
export function groupWithPast(raw: RawConnection, first: readonly number[]): StaleGroup | null {
  const found = raw
    .prepare(
      `${GROUPS} GROUP BY 1, 2 HAVING max(s.recent) = 0
        ORDER BY e.course_id IN (SELECT value FROM json_each(@first)) DESC, 3 DESC LIMIT 1`,
    )
    .get({ first: JSON.stringify(first) });
  return (found as StaleGroup | undefined) ?? null;
}

const OF_GROUP = 'enrolment_id IN (SELECT id FROM enrolment WHERE course_id = @courseId AND group_id IS @groupId)';

/** What waits of a group now; null when nothing does. */
export function staleGroup(raw: RawConnection, { courseId, groupId }: Group): StaleGroup | null {
  const found = raw
    .prepare(`${GROUPS} WHERE e.course_id = @courseId AND e.group_id IS @groupId GROUP BY 1, 2`)
    .get({ courseId, groupId });
  return (found as StaleGroup | undefined) ?? null;
}

/**
 * Notes that a group has been read from a day on: what lay before it still waits, if anything did.
 * @param earlierUntil the first day that was read
 */
export function noteRead(raw: RawConnection, { courseId, groupId }: Group, earlierUntil: number): void {
  raw
    .prepare(`DELETE FROM drift_stale WHERE from_day >= @earlierUntil AND ${OF_GROUP}`)
    .run({ courseId, groupId, earlierUntil });
  raw.prepare(`UPDATE drift_stale SET recent = 0 WHERE ${OF_GROUP}`).run({ courseId, groupId });
}

/** Notes that a group's past has been read up to a day: the next one waits. Past the last there is none. */
export function notePastRead(raw: RawConnection, { courseId, groupId }: Group, next: number, lastDay: number): void {
  const group = { courseId, groupId };
  if (next > lastDay) raw.prepare(`DELETE FROM drift_stale WHERE ${OF_GROUP}`).run(group);
  else {
    raw.prepare(`UPDATE drift_stale SET from_day = max(from_day, @next) WHERE ${OF_GROUP}`).run({ ...group, next });
  }
}

/** Who is in a course, or when it runs, has changed: all of its drift is read anew. */
export function staleCourses(raw: RawConnection, courses: Set<number>): void {
  for (const courseId of courses) noteStale(raw, OF_COURSE, { courseId, fromDay: FROM_THE_BEGINNING });
  courses.clear();
}

/** Courses in which something falls due for somebody after one instant and up to another. */
export function coursesDueBetween(raw: RawConnection, after: number, upTo: number): number[] {
  return prepared(
    raw,
    `SELECT course_id FROM item WHERE due_at > @after AND due_at <= @upTo
     UNION SELECT item.course_id FROM extension JOIN item ON item.id = extension.item_id
       WHERE extension.due_at > @after AND extension.due_at <= @upTo`,
  )
    .pluck()
    .all({ after, upTo }) as number[];
}
