/** Who did something: whom the ids of files and logs stand for, and whether they did it as a learner or as staff. */
import type { Fault } from '@/core/imports/heading';
import { startOfDay } from '@/core/time/zone';
import { closedLogs } from '@/data/privacy/retention';
import { courseCount, daySql } from '../day-sql';
import type { RawConnection } from '../db';
import { openTouch } from './touched';

/** Days before its course begins on which something may have happened in it: two years. */
const LONG_BEFORE = 731;

/** Before these instants nothing can have happened in a course: two years before it begins. */
export function earliestByCourse(raw: RawConnection, zone: string): Map<number, number> {
  const courses = raw.prepare('SELECT id, starts_day FROM course WHERE starts_day IS NOT NULL').raw().all();
  return new Map((courses as [number, number][]).map(([id, day]) => [id, startOfDay(day - LONG_BEFORE, zone)]));
}

/** Who and what the ids in a log stand for, read once. */
export function openLookup(raw: RawConnection, zone: string) {
  const pairs = (sql: string) => new Map(raw.prepare(sql).raw().all() as [string, number][]);
  const courses = pairs('SELECT code, id FROM course');
  // A record that was merged into another leads to that one.
  const learners = pairs('SELECT external_id, ifnull(merged_into, id) FROM learner');
  const staff = pairs('SELECT external_id, id FROM staff');
  const staffOfLearner = new Map(raw.prepare(LEARNER_STAFF).raw().all() as [number, number][]);
  const items = new Map<number, Map<string, number>>();
  for (const [courseId, externalId, id] of raw.prepare('SELECT course_id, external_id, id FROM item').raw().all() as [
    number,
    string,
    number,
  ][]) {
    let ofCourse = items.get(courseId);
    if (!ofCourse) items.set(courseId, (ofCourse = new Map()));
    ofCourse.set(externalId, id);
  }
  const staffCourses = new Set(
    (raw.prepare(STAFF_COURSES).raw().all() as [number, number][]).map(
      ([staffId, courseId]) => `${staffId}/${courseId}`,
    ),
  );
  return {
    courses,
    learners,
    staff,
    staffOfLearner,
    items,
    staffCourses,
    earliest: earliestByCourse(raw, zone),
    closed: closedLogs(raw),
  };
}

/** Who did something, where. */
interface Actor {
  learnerId: number | null;
  staffId: number | null;
  courseId: number;
  itemId: number | null;
}

/**
 * Opens a lookup of the ids in a file of deeds: whoever has a staff role in the course did it as staff, a learner has to be
 * enrolled in it.
 */
export function openActors(raw: RawConnection, zone: string) {
  const lookup = openLookup(raw, zone);
  const enrolled = new Set(
    (raw.prepare('SELECT learner_id, course_id FROM live_enrolment').raw().all() as [number, number][]).map(
      ([learnerId, courseId]) => `${learnerId}/${courseId}`,
    ),
  );
  return (person: string, course: string, item: string): Actor | Fault => {
    const courseId = lookup.courses.get(course);
    if (courseId === undefined) return { field: 'course', reason: `there is no course ${course}` };
    const actor = actorOf(lookup, person, courseId);
    if (actor === null) return { field: 'learner_id', reason: `no learner or member of staff has the id ${person}` };
    if (actor.learnerId !== null && !enrolled.has(`${actor.learnerId}/${courseId}`))
      return { field: 'learner_id', reason: `is not enrolled in ${course}` };
    const itemId = item === '' ? null : lookup.items.get(courseId)?.get(item);
    if (itemId === undefined) return { field: 'item_id', reason: `course ${course} has no item ${item}` };
    return { ...actor, courseId, itemId };
  };
}

/** Who an id stands for in a course: a learner, or staff where they have a role in it; null for nobody. */
function actorOf(
  lookup: ReturnType<typeof openLookup>,
  person: string,
  courseId: number,
): Pick<Actor, 'learnerId' | 'staffId'> | null {
  const learnerId = lookup.learners.get(person);
  const staffId =
    lookup.staff.get(person) ?? (learnerId === undefined ? undefined : lookup.staffOfLearner.get(learnerId));
  if (learnerId === undefined && staffId === undefined) return null;
  return isStaffIn(lookup, learnerId, staffId, courseId)
    ? { learnerId: null, staffId: staffId! }
    : { learnerId: learnerId!, staffId: null };
}

/** Does somebody who may be both act as staff in a course? */
export function isStaffIn(
  { staffCourses }: ReturnType<typeof openLookup>,
  learnerId: number | undefined,
  staffId: number | undefined,
  courseId: number,
): boolean {
  return staffId !== undefined && (learnerId === undefined || staffCourses.has(`${staffId}/${courseId}`));
}

/** Learners who are staff too: by the same id, or the same e-mail. */
export const LEARNER_STAFF = `
  SELECT learner.id AS learner_id, staff.id AS staff_id FROM staff JOIN learner ON learner.external_id = staff.external_id
  UNION SELECT learner.id, staff.id FROM staff JOIN learner ON learner.email = staff.email COLLATE NOCASE`;

/** Courses in which a member of staff has a staff role. A partner's contact has none. */
export const STAFF_COURSES = `
  SELECT staff_id, course.id AS course_id FROM staff_scope JOIN course ON staff_scope.kind = 'all'
  UNION SELECT staff_id, course_id FROM staff_scope WHERE kind = 'course'
  UNION SELECT staff_id, course_group.course_id FROM staff_scope
    JOIN course_group ON course_group.id = staff_scope.group_id WHERE kind = 'group'`;

/**
 * Sorts the stored events of people who are staff in a course and learners elsewhere anew,
 * after staff or roster changed. The learners concerned are marked touched.
 */
export function reassignStaffEvents(raw: RawConnection, zone: string): void {
  const both = `SELECT person.learner_id, person.staff_id, role.course_id
    FROM (${LEARNER_STAFF}) person JOIN (${STAFF_COURSES}) role ON role.staff_id = person.staff_id`;
  const pairs = raw.prepare(both).all() as { learner_id: number; staff_id: number; course_id: number }[];
  const touch = openTouch(raw);
  const span = raw.prepare('SELECT min(at), max(at) FROM event WHERE learner_id = ? AND course_id = ?').raw();
  const move = raw.prepare('UPDATE event SET staff_id = ?, learner_id = NULL WHERE learner_id = ? AND course_id = ?');
  for (const { learner_id, staff_id, course_id } of pairs) {
    const [first, last] = span.get(learner_id, course_id) as [number | null, number | null];
    if (first === null) continue;
    touch(learner_id, first, last!);
    const where = 'learner_id = @learner_id AND course_id = @course_id';
    const day = daySql('at', zone, first, last! + 1);
    for (const [staff, sign] of [
      [0, -1],
      [1, 1],
    ]) {
      raw.prepare(courseCount(day, where, staff, sign)).run({ learner_id, course_id });
    }
    move.run(staff_id, learner_id, course_id);
  }
}
