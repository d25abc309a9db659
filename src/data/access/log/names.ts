/** Courses, items and units that a filter of the log names. */
import type { ItemKind } from '@/core/courses/item-kinds';
import type { Db } from '@/data/db';
import { courseOfGroup } from '@/data/courses/courses';
import { enrolmentInScope, type ViewScope } from '@/data/scope';

/** Courses in which a name is looked up: all that the viewer sees, or the one looked at. */
export async function coursesInLog(db: Db, { viewer, segment }: ViewScope): Promise<number[]> {
  if (viewer.all && segment.courseId !== undefined && segment.groupId === undefined) return [segment.courseId];
  const group = segment.groupId === undefined ? undefined : await courseOfGroup(db, segment.groupId);
  const seen: number[] = viewer.all
    ? await db('course').pluck('id')
    : await db('enrolment').where(enrolmentInScope(viewer)).distinct('course_id').pluck('course_id');
  return seen.filter(
    (id) => (segment.courseId === undefined || id === segment.courseId) && (group === undefined || id === group),
  );
}

export interface LogItem {
  id: number;
  course_id: number;
  title: string;
  opens_at: number | null;
  changed_at: number | null;
  kind: ItemKind;
}

/** Items with this id of their source's, in some courses. */
export async function itemsOfLog(db: Db, courseIds: readonly number[], externalId: string): Promise<LogItem[]> {
  return db('item')
    .where('external_id', externalId)
    .whereIn('course_id', courseIds)
    .select('id', 'course_id', 'title', 'kind', 'opens_at', 'changed_at');
}

/** Ids of the items of units with this title, in some courses. */
export async function unitItems(db: Db, courseIds: readonly number[], title: string): Promise<number[]> {
  return (
    db('item')
      .join('unit', 'unit.id', 'item.unit_id')
      .where('unit.title', title)
      .whereIn('unit.course_id', courseIds)
      // The same once more, for the index of items by course.
      .whereIn('item.course_id', courseIds)
      .orderBy('item.position')
      .pluck('item.id')
  );
}

/** Units of some courses, in outline order. */
export async function unitsOf(db: Db, courseIds: readonly number[]): Promise<{ course_id: number; title: string }[]> {
  return db('unit').whereIn('course_id', courseIds).orderBy(['course_id', 'position']).select('course_id', 'title');
}

/** Items of a unit, of a sort, or both, in some courses. */
export async function itemsOfSort(
  db: Db,
  courseIds: readonly number[],
  { unit, kind }: { unit?: string; kind?: string },
): Promise<LogItem[]> {
  return db('item')
    .leftJoin('unit', 'unit.id', 'item.unit_id')
    .whereIn('item.course_id', courseIds)
    .modify((query) => {
      if (unit !== undefined) query.where('unit.title', unit);
      if (kind !== undefined) query.where('item.kind', kind);
    })
    .orderBy('item.position')
    .select('item.id', 'item.course_id', 'item.title', 'item.kind', 'item.opens_at', 'item.changed_at');
}
