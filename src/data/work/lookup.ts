/** Who and what the ids in files of work stand for, read once for each file. */
import type { Fault } from '@/core/imports/heading';
import type { RawConnection } from '../db';

export interface FoundWork {
  learnerId: number;
  courseId: number;
  itemId: number;
}

interface KnownCourse {
  id: number;
  items: Map<string, number>;
  learners: Set<number>;
}

/** Opens a lookup of learners, courses, items and who is enrolled. */
export function openWorkLookup(raw: RawConnection) {
  const courses = new Map<string, KnownCourse>();
  const byId = new Map<number, KnownCourse>();
  for (const [code, id] of raw.prepare('SELECT code, id FROM course').raw().all() as [string, number][]) {
    const course = { id, items: new Map<string, number>(), learners: new Set<number>() };
    courses.set(code, course);
    byId.set(id, course);
  }
  for (const [courseId, externalId, id] of raw.prepare('SELECT course_id, external_id, id FROM item').raw().all() as [
    number,
    string,
    number,
  ][])
    byId.get(courseId)!.items.set(externalId, id);
  for (const [courseId, learnerId] of raw.prepare('SELECT course_id, learner_id FROM live_enrolment').raw().all() as [
    number,
    number,
  ][])
    byId.get(courseId)!.learners.add(learnerId);
  const learners = new Map(
    raw.prepare('SELECT external_id, ifnull(merged_into, id) FROM learner').raw().all() as [string, number][],
  );
  return (row: Record<string, string>): FoundWork | Fault => {
    const fault = (field: string, reason: string): Fault => ({ field, reason });
    const course = courses.get(row.course);
    if (!course) return fault('course', `there is no course ${row.course}: bring in the outline first`);
    const learnerId = learners.get(row.learner_id);
    if (learnerId === undefined)
      return fault('learner_id', `there is no learner ${row.learner_id}: bring in the roster first`);
    if (!course.learners.has(learnerId)) return fault('learner_id', `is not enrolled in ${row.course}`);
    const itemId = course.items.get(row.item_id);
    if (itemId === undefined)
      return fault('item_id', `there is no item ${row.item_id} in ${row.course}: bring in the outline first`);
    return { learnerId, courseId: course.id, itemId };
  };
}

/** Is it a fault, and no find? */
export function isNotFound(found: FoundWork | Fault): found is Fault {
  return 'reason' in found;
}
