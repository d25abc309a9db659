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
 * Staff around learners, each once with each: instructors and mentors of their courses and groups, whoever is set to see them by
 * name, and whoever has put them in a caseload by hand. Nobody who sees everything, and nobody who has left.
 * By the courses in which a learner is enrolled now and the viewer sees them.
 */
export async function staffInCrews(
  db: Db,
  viewer: Viewer,
  learnerIds: readonly number[],
): Promise<(StaffInCrew & { learner_id: number })[]> {
  const ids = JSON.stringify(learnerIds);
  // From the people on, whatever the planner makes of how many there may be.
  const enrolled = db
    .from(db.raw('json_each(?) AS who', [ids]))
    .joinRaw('CROSS JOIN enrolment ON enrolment.learner_id = who.value')
    .where({ status: 'active' })
    .where(enrolmentInScope(viewer))
    .select('enrolment.learner_id', 'enrolment.course_id', 'enrolment.group_id');
  type Row = Omit<StaffInCrew, 'by' | 'courses'> & { learner_id: number; rank: number; courses: string };
  const rows: Row[] = await db
    .with('own', enrolled)
    .with(
      'around',
      db.raw(
        `SELECT own.learner_id, s.staff_id, 0 AS rank, s.course_id FROM own CROSS JOIN staff_scope s ON s.course_id = own.course_id
         UNION ALL SELECT own.learner_id, s.staff_id, 1, own.course_id FROM own CROSS JOIN staff_scope s ON s.group_id = own.group_id
         UNION ALL SELECT s.learner_id, s.staff_id, 2, NULL FROM json_each(:ids) AS who CROSS JOIN staff_scope s ON s.learner_id = who.value
         UNION ALL SELECT l.learner_id, c.owner_id, 2, NULL FROM json_each(:ids) AS who
           CROSS JOIN caseload_learner l ON l.learner_id = who.value CROSS JOIN caseload c ON c.id = l.caseload_id
           WHERE l.is_out = 0`,
        { ids },
      ),
    )
    .from('around')
    .joinRaw('CROSS JOIN staff ON staff.id = around.staff_id')
    .leftJoin('course', 'course.id', 'around.course_id')
    .whereNull('staff.ended_at')
    // Of those who are set to see a course, its teachers; of a caseload, whoever it is.
    .where((any) => any.where('around.rank', 2).orWhereIn('staff.role', ['instructor', 'mentor']))
    .groupBy('around.learner_id', 'staff.id')
    .orderByRaw("around.learner_id, min(around.rank), staff.role <> 'instructor', staff.family_name, staff.id")
    .select(
      'around.learner_id',
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

/** Staff around one learner, as in `staffInCrews`. */
export async function staffInCrew(db: Db, viewer: Viewer, learnerId: number): Promise<StaffInCrew[]> {
  return staffInCrews(db, viewer, [learnerId]);
}
