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

/** The members of a group of a finished course with all that was ever known of them, and how it ended. */
export function cohortMembers(
  raw: RawConnection,
  courseId: number,
  groupId: number | null,
  zone: string,
): CohortMember[] {
  const ends = prepared(
    raw,
    `SELECT e.id, e.status, s.completed_at IS NOT NULL AS done FROM enrolment e
       LEFT JOIN standing s ON s.enrolment_id = e.id
     WHERE e.course_id = ? AND e.group_id IS ? AND e.status <> 'merged'`,
  ).all(courseId, groupId) as { id: number; status: string; done: number }[];
  const ended = new Map(ends.map((one) => [one.id, one]));
  const from = { days: 'learner_day', standings: 'standing' } as const;
  return groupMembers(raw, { courseId, groupId, fromDay: 0 }, DEFAULT_MODEL, from, zone).flatMap((member) => {
    const own = ended.get(member.enrolmentId);
    if (!own) return [];
    const hasCompleted = own.status === 'completed' || (own.status === 'active' && own.done === 1);
    return [{ ...member, hasCompleted, hasWithdrawn: own.status === 'withdrawn' }];
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
