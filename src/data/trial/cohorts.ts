/** Finished courses, as trials replay them. */
import { DEFAULT_MODEL } from '@/core/drift/model';
import type { CohortMember } from '@/core/trial/cohort';
import { groupBy } from '@/core/group-by';
import { dayOf } from '@/core/time/zone';
import { prepared, type Db, type RawConnection } from '../db';
import { groupMembers } from '../drift/drift';

export interface FinishedCourse {
  id: number;
  code: string;
  title: string;
  /** Null groups hold those in none. */
  groups: (number | null)[];
}

/** Courses that have ended before a day, with the groups that people are in. */
export async function finishedCourses(db: Db, before: number): Promise<FinishedCourse[]> {
  const rows = await db('course')
    .join('enrolment', 'enrolment.course_id', 'course.id')
    .where('course.ends_day', '<', before)
    .whereNotNull('course.starts_day')
    .whereNot('enrolment.status', 'merged')
    .groupBy('course.id')
    .orderBy('course.code')
    .select(
      'course.id',
      'course.code',
      'course.title',
      db.raw('json_group_array(DISTINCT enrolment.group_id) AS groups'),
    );
  return rows.map(({ groups, ...row }) => ({ ...row, groups: JSON.parse(groups) as (number | null)[] }));
}

/** A member of a finished course, who may be in others too. */
export interface CohortPerson extends CohortMember {
  learnerId: number;
}

/** The members of a group of a finished course with all that was ever known of them, and how it ended. */
export function cohortMembers(
  raw: RawConnection,
  courseId: number,
  groupId: number | null,
  zone: string,
): CohortPerson[] {
  const ends = prepared(
    raw,
    `SELECT e.id, e.learner_id, e.status, s.completed_at IS NOT NULL AS done FROM enrolment e
       LEFT JOIN enrolment_progress s ON s.enrolment_id = e.id
     WHERE e.course_id = ? AND e.group_id IS ? AND e.status <> 'merged'`,
  ).all(courseId, groupId) as { id: number; learner_id: number; status: string; done: number }[];
  const ended = new Map(ends.map((end) => [end.id, end]));
  return groupMembers(raw, { courseId, groupId, fromDay: 0 }, DEFAULT_MODEL, zone).flatMap((member) => {
    const end = ended.get(member.enrolmentId);
    if (!end) return [];
    const hasCompleted = end.status === 'completed' || (end.status === 'active' && end.done === 1);
    return [{ ...member, learnerId: end.learner_id, hasCompleted, hasWithdrawn: end.status === 'withdrawn' }];
  });
}

/** The days on which somebody tried to reach a course's learners, by their enrolment. */
export function contactDays(raw: RawConnection, courseId: number, zone: string): Map<number, number[]> {
  const rows = prepared(
    raw,
    'SELECT e.id, a.at FROM enrolment e JOIN contact_attempt a ON a.learner_id = e.learner_id WHERE e.course_id = ?',
  ).all(courseId) as { id: number; at: number }[];
  const byEnrolment = groupBy(rows, ({ id }) => id);
  return new Map([...byEnrolment].map(([id, own]) => [id, own.map(({ at }) => dayOf(at, zone))]));
}

/** What a finished course is like, and who was in it: for parts of a trial, never for a score. */
export interface CohortSubgroups {
  hasSessions: boolean;
  /** By enrolment. */
  people: Map<number, { group: string | null; organisation: string | null; visits: { start: number; ms: number }[] }>;
}

export function cohortSubgroups(raw: RawConnection, courseId: number): CohortSubgroups {
  const people = prepared(
    raw,
    `SELECT e.id, g.name AS "group", o.name AS organisation,
       (SELECT json_group_array(json_array(v.first, v.ms)) FROM visit_course v
        WHERE v.learner_id = e.learner_id AND v.course_id = e.course_id) AS visits
     FROM enrolment e JOIN learner l ON l.id = e.learner_id
       LEFT JOIN course_group g ON g.id = e.group_id LEFT JOIN organisation o ON o.id = l.organisation_id
     WHERE e.course_id = ?`,
  ).all(courseId) as { id: number; group: string | null; organisation: string | null; visits: string }[];
  const hasSessions = prepared(raw, 'SELECT 1 FROM session WHERE course_id = ? LIMIT 1').get(courseId) !== undefined;
  return {
    hasSessions,
    people: new Map(
      people.map(({ id, visits, ...one }) => [
        id,
        { ...one, visits: (JSON.parse(visits) as [number, number][]).map(([start, ms]) => ({ start, ms })) },
      ]),
    ),
  };
}
