/** The crew of a learner: the staff and the contacts around them. */
import type { StaffRole } from '@/core/staff/roles';
import { prepared, withRaw, type Db } from '../db';
import { staffColumn, staffName } from '../person';
import { conditionOf, enrolmentInScope, type Viewer } from '../scope';

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
  // Written by hand: put together anew, it would take four times as long as it takes to answer.
  const own = conditionOf(db, enrolmentInScope(viewer));
  // From the people on, whatever the planner makes of how many there may be.
  const text = `WITH who AS MATERIALIZED (SELECT value AS id FROM json_each(?)),
      own AS MATERIALIZED (
        SELECT enrolment.learner_id, enrolment.course_id, enrolment.group_id
        FROM who CROSS JOIN enrolment ON enrolment.learner_id = who.id WHERE enrolment.status = 'active' AND ${own.sql}),
      around AS (
        SELECT own.learner_id, s.staff_id, 0 AS rank, s.course_id FROM own CROSS JOIN staff_scope s ON s.course_id = own.course_id
        UNION ALL SELECT own.learner_id, s.staff_id, 1, own.course_id FROM own CROSS JOIN staff_scope s ON s.group_id = own.group_id
        UNION ALL SELECT s.learner_id, s.staff_id, 2, NULL FROM who CROSS JOIN staff_scope s ON s.learner_id = who.id
        UNION ALL SELECT l.learner_id, c.owner_id, 2, NULL FROM who
          CROSS JOIN caseload_learner l ON l.learner_id = who.id CROSS JOIN caseload c ON c.id = l.caseload_id
          WHERE l.is_out = 0)
    SELECT around.learner_id, staff.id, ${staffName(viewer)} AS name, staff.role, ${staffColumn(viewer, 'email')} AS email,
      min(around.rank) AS rank,
      json_group_array(DISTINCT course.title) FILTER (WHERE course.id IS NOT NULL) AS courses
    FROM around CROSS JOIN staff ON staff.id = around.staff_id LEFT JOIN course ON course.id = around.course_id
    -- Of those who are set to see a course, its teachers; of a caseload, whoever it is.
    WHERE staff.ended_at IS NULL AND (around.rank = 2 OR staff.role IN ('instructor', 'mentor'))
    GROUP BY around.learner_id, staff.id
    ORDER BY around.learner_id, min(around.rank), staff.role <> 'instructor', staff.family_name, staff.id`;
  type Row = Omit<StaffInCrew, 'by' | 'courses'> & { learner_id: number; rank: number; courses: string };
  const rows = await withRaw(
    db,
    (raw) => prepared(raw, text).all(JSON.stringify(learnerIds), ...own.bindings) as Row[],
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
