/** What a OneRoster archive of everything here holds, file by file, as rows in the standard's own names. */
import { dateOfDay } from '@/core/time/zone';
import { courseIsThere } from '../courses/courses';
import type { RawConnection } from '../db';

/** A row by its columns; those that are left out are empty. */
export type OneRosterRow = Record<string, string | number | null>;

/** Who runs it all: the one organisation that everything is of. */
const HOUSE = 'programme';

/** A class is a group, or a course for whoever is in none. */
const CLASSES = `SELECT c.id AS course, NULL AS grp, c.code AS sourcedId, c.title FROM course c
    WHERE ${courseIsThere('c')} AND (NOT EXISTS (SELECT 1 FROM course_group g WHERE g.course_id = c.id)
       OR EXISTS (SELECT 1 FROM enrolment e WHERE e.course_id = c.id AND e.group_id IS NULL))
  UNION ALL SELECT g.course_id, g.id, c.code || '/' || g.name, g.name FROM course_group g
    JOIN course c ON c.id = g.course_id WHERE ${courseIsThere('c')}`;

interface ClassRow {
  course: number;
  grp: number | null;
  sourcedId: string;
  title: string;
}

interface CourseRow {
  id: number;
  code: string;
  title: string;
  starts_day: number | null;
  ends_day: number | null;
}

const dayOrEmpty = (day: number | null) => (day === null ? '' : dateOfDay(day));
const termOf = ({ starts_day, ends_day }: Pick<CourseRow, 'starts_day' | 'ends_day'>) =>
  starts_day === null || ends_day === null ? '' : `term-${dateOfDay(starts_day)}-${dateOfDay(ends_day)}`;

/** Courses and their classes, which the other files refer to. */
export interface OneRosterCourses {
  courses: CourseRow[];
  classes: ClassRow[];
  /** The class of an enrolment. */
  classOf(courseId: number, groupId: number | null): string;
}

export function readOneRosterCourses(raw: RawConnection): OneRosterCourses {
  const courses = raw
    .prepare(`SELECT id, code, title, starts_day, ends_day FROM course WHERE ${courseIsThere('course')} ORDER BY code`)
    .all() as CourseRow[];
  const classes = raw.prepare(`${CLASSES} ORDER BY sourcedId`).all() as ClassRow[];
  const byGroup = new Map(classes.map(({ course, grp, sourcedId }) => [`${course}/${grp ?? ''}`, sourcedId]));
  return { courses, classes, classOf: (courseId, groupId) => byGroup.get(`${courseId}/${groupId ?? ''}`)! };
}

export function* academicSessionRows({ courses }: OneRosterCourses): Generator<OneRosterRow> {
  const terms = new Map(courses.map((course) => [termOf(course), course]));
  for (const [sourcedId, { starts_day, ends_day }] of terms) {
    if (sourcedId === '') continue;
    const [startDate, endDate] = [dayOrEmpty(starts_day), dayOrEmpty(ends_day)];
    yield {
      sourcedId,
      title: `${startDate} to ${endDate}`,
      type: 'term',
      startDate,
      endDate,
      schoolYear: endDate.slice(0, 4),
    };
  }
}

export function* courseRows({ courses }: OneRosterCourses): Generator<OneRosterRow> {
  for (const { code, title } of courses) yield { sourcedId: code, title, courseCode: code, orgSourcedId: HOUSE };
}

export function* classRows({ courses, classes }: OneRosterCourses): Generator<OneRosterRow> {
  const byId = new Map(courses.map((course) => [course.id, course]));
  for (const { course, sourcedId, title } of classes) {
    const of = byId.get(course)!;
    const where = {
      courseSourcedId: of.code,
      classType: 'scheduled',
      schoolSourcedId: HOUSE,
      termSourcedIds: termOf(of),
    };
    yield { sourcedId, title, ...where };
  }
}

export function* orgRows(raw: RawConnection): Generator<OneRosterRow> {
  yield { sourcedId: HOUSE, name: 'Programme', type: 'school' };
  for (const { id, name } of raw.prepare('SELECT id, name FROM organisation ORDER BY name').all() as {
    id: number;
    name: string;
  }[])
    yield { sourcedId: `organisation-${id}`, name, type: 'ext:partner', parentSourcedId: HOUSE };
}

/** Staff who teach or mentor a course or a group of one; the same id as a learner's is the same person. */
const TEACHERS = `SELECT DISTINCT s.id, s.external_id, s.given_name, s.family_name, s.email, s.role FROM staff s
  JOIN staff_scope p ON p.staff_id = s.id AND p.kind IN ('course', 'group')
  WHERE s.ended_at IS NULL AND s.role IN ('instructor', 'mentor') AND s.external_id IS NOT NULL ORDER BY s.id`;
const LEARNERS = `SELECT l.external_id, l.given_name, l.family_name, l.email, l.phone, l.organisation_id FROM learner l
  WHERE l.merged_into IS NULL ORDER BY l.id`;

interface PersonRow {
  external_id: string;
  given_name: string;
  family_name: string;
  email: string | null;
  phone?: string | null;
  organisation_id?: number | null;
  role?: string;
}

function* people(raw: RawConnection): Generator<PersonRow> {
  const learner = raw.prepare('SELECT 1 FROM learner WHERE external_id = ? AND merged_into IS NULL').pluck();
  yield* raw.prepare(LEARNERS).iterate() as IterableIterator<PersonRow>;
  for (const one of raw.prepare(TEACHERS).all() as PersonRow[])
    if (learner.get(one.external_id) === undefined) yield one;
}

const orgOf = (id: number | null | undefined) => (id === null || id === undefined ? HOUSE : `organisation-${id}`);

export function* userRows(raw: RawConnection): Generator<OneRosterRow> {
  for (const { external_id, given_name, family_name, email, phone, organisation_id } of people(raw))
    yield {
      sourcedId: external_id,
      enabledUser: 'true',
      username: email ?? external_id,
      givenName: given_name,
      familyName: family_name,
      email,
      phone: phone ?? null,
      primaryOrgSourcedId: orgOf(organisation_id),
    };
}

export function* roleRows(raw: RawConnection): Generator<OneRosterRow> {
  for (const { external_id, organisation_id, role } of people(raw))
    yield {
      sourcedId: `role-${external_id}`,
      userSourcedId: external_id,
      roleType: 'primary',
      role: role === undefined ? 'student' : STAFF_ROLE[role],
      orgSourcedId: orgOf(organisation_id),
    };
}

const STAFF_ROLE: Readonly<Record<string, string>> = { instructor: 'teacher', mentor: 'aide' };

export function* enrollmentRows(raw: RawConnection, all: OneRosterCourses): Generator<OneRosterRow> {
  const enrolments = raw.prepare(
    `SELECT e.id, e.course_id, e.group_id, e.enrolled_day, e.ended_day, e.status, l.external_id FROM enrolment e
     JOIN learner l ON l.id = e.learner_id WHERE l.merged_into IS NULL AND e.status <> 'merged' ORDER BY e.id`,
  );
  for (const one of enrolments.iterate() as IterableIterator<{
    id: number;
    course_id: number;
    group_id: number | null;
    enrolled_day: number;
    ended_day: number | null;
    status: string;
    external_id: string;
  }>)
    yield {
      sourcedId: `enrolment-${one.id}`,
      classSourcedId: all.classOf(one.course_id, one.group_id),
      schoolSourcedId: HOUSE,
      userSourcedId: one.external_id,
      role: 'student',
      beginDate: dateOfDay(one.enrolled_day),
      endDate: one.status === 'active' ? '' : dayOrEmpty(one.ended_day),
    };
  const scopes = raw.prepare(
    "SELECT id, course_id, group_id FROM staff_scope WHERE staff_id = ? AND kind IN ('course', 'group')",
  );
  for (const { id: staffId, external_id, role } of raw.prepare(TEACHERS).all() as (PersonRow & { id: number })[])
    for (const scope of scopes.all(staffId) as { id: number; course_id: number | null; group_id: number | null }[])
      for (const [index, one] of all.classes.entries())
        if (scope.group_id !== null ? one.grp === scope.group_id : one.course === scope.course_id)
          yield {
            sourcedId: `scope-${scope.id}-${index}`,
            classSourcedId: one.sourcedId,
            schoolSourcedId: HOUSE,
            userSourcedId: external_id,
            role: STAFF_ROLE[role!],
            primary: role === 'instructor' ? 'true' : 'false',
          };
}

/** Ids of items that more than one course has. */
export function sharedItemIds(raw: RawConnection): Set<string> {
  const ids = raw.prepare('SELECT external_id FROM item GROUP BY 1 HAVING count(*) > 1').pluck().all();
  return new Set(ids as string[]);
}

/** Everybody in a course, whether still there or not, with their group. */
export function enrolledIn(
  raw: RawConnection,
  courseId: number,
): { id: number; learner: string; groupId: number | null }[] {
  return raw
    .prepare(
      `SELECT l.id, l.external_id AS learner, e.group_id AS groupId FROM enrolment e JOIN learner l ON l.id = e.learner_id
       WHERE e.course_id = ? AND l.merged_into IS NULL AND e.status <> 'merged' ORDER BY e.id`,
    )
    .all(courseId) as { id: number; learner: string; groupId: number | null }[];
}
