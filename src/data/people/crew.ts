/** The crew of a learner: the staff and the contacts around them. */
import type { StaffRole } from '@/core/staff/roles';
import type { Db } from '../db';
import { staffColumn, staffName } from '../person';
import { enrolmentInScope, type Viewer } from '../scope';

/** What somebody is of a learner's crew by. */
const CREW_BY = ['course', 'group', 'caseload', 'contact'] as const;
export type CrewBy = (typeof CREW_BY)[number];

export interface StaffInCrew {
  id: number;
  name: string;
  role: StaffRole;
  email: string;
  by: Exclude<CrewBy, 'contact'>;
  /** Courses, by their titles, in which they are theirs; none by a caseload. */
  courses: string[];
}

/**
 * Staff around a learner, each once: instructors and mentors of their courses and groups, whoever is set to see them by name, and
 * whoever has put them in a caseload by hand. Nobody who sees everything, and nobody who has left.
 * By the courses in which the learner is enrolled now and the viewer sees them.
 */
export async function staffInCrew(db: Db, viewer: Viewer, learnerId: number): Promise<StaffInCrew[]> {
  const enrolled = db('enrolment')
    .where({ learner_id: learnerId, status: 'active' })
    .where(enrolmentInScope(viewer))
    .select('course_id', 'group_id');
  const rows: (Omit<StaffInCrew, 'by' | 'courses'> & { rank: number; courses: string })[] = await db
    .with('own', enrolled)
    .with(
      'around',
      db.raw(
        `SELECT s.staff_id, 0 AS rank, s.course_id FROM staff_scope s WHERE s.course_id IN (SELECT course_id FROM own)
         UNION ALL SELECT s.staff_id, 1, g.course_id FROM staff_scope s JOIN course_group g ON g.id = s.group_id
           WHERE s.group_id IN (SELECT group_id FROM own)
         UNION ALL SELECT s.staff_id, 2, NULL FROM staff_scope s WHERE s.learner_id = ?
         UNION ALL SELECT c.owner_id, 2, NULL FROM caseload_learner l JOIN caseload c ON c.id = l.caseload_id
           WHERE l.learner_id = ? AND l.is_out = 0`,
        [learnerId, learnerId],
      ),
    )
    .from('around')
    .join('staff', 'staff.id', 'around.staff_id')
    .leftJoin('course', 'course.id', 'around.course_id')
    .whereNull('staff.ended_at')
    // Of those who are set to see a course, its teachers; of a caseload, whoever it is.
    .where((any) => any.where('around.rank', 2).orWhereIn('staff.role', ['instructor', 'mentor']))
    .groupBy('staff.id')
    .orderByRaw("min(around.rank), staff.role <> 'instructor', staff.family_name, staff.id")
    .select(
      'staff.id',
      db.raw(`${staffName(viewer)} AS name`),
      'staff.role',
      db.raw(`${staffColumn(viewer, 'email')} AS email`),
      db.raw('min(around.rank) AS rank'),
      db.raw('json_group_array(DISTINCT course.title) FILTER (WHERE course.id IS NOT NULL) AS courses'),
    );
  return rows.map(({ rank, courses: titles, ...row }) => ({
    ...row,
    by: CREW_BY[rank] as StaffInCrew['by'],
    courses: JSON.parse(titles),
  }));
}
