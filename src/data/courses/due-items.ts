/** Items of courses that are seen, and what falls due of them. */
import type { Db } from '../db';
import { enrolmentInScope, type Viewer } from '../scope';

/** When required items fall due, by course. */
export async function dueDates(db: Db, courseIds: readonly number[], from: number, to: number) {
  return (await db('item')
    .whereIn('course_id', courseIds)
    .whereNull('removed_at')
    .whereBetween('due_at', [from, to])
    .orderBy('due_at')
    .select('course_id', 'due_at', 'title')) as { course_id: number; due_at: number; title: string }[];
}

/** The first required item to fall due in each course after an instant. */
export async function nextDue(db: Db, courseIds: readonly number[], after: number) {
  const rows = (await db('item')
    .whereIn('course_id', courseIds)
    .where('due_at', '>', after)
    .whereNull('removed_at')
    .groupBy('course_id')
    // With min(), SQLite gives the other columns of the row that has it.
    .select('course_id', 'title', db.raw('min(due_at) AS due_at'))) as {
    course_id: number;
    title: string;
    due_at: number;
  }[];
  return new Map(rows.map((row) => [row.course_id, row]));
}

/** Items of a course in which the viewer sees somebody, in outline order. */
export async function courseItems(db: Db, viewer: Viewer, code: string) {
  return (await db('item')
    .join('course', 'course.id', 'item.course_id')
    .leftJoin('unit', 'unit.id', 'item.unit_id')
    .where('course.code', code)
    .whereNull('item.removed_at')
    .whereIn('item.course_id', db('enrolment').where(enrolmentInScope(viewer)).distinct('course_id'))
    .orderBy(['item.position', 'item.id'])
    .select('item.external_id as item_id', 'item.title', 'unit.title as unit')) as {
    item_id: string;
    title: string;
    unit: string | null;
  }[];
}

/** Items of a course that fall due between two instants, the first due first. Only of courses in scope. */
export async function itemsDue(
  db: Db,
  viewer: Viewer,
  code: string,
  from: number,
  to: number,
): Promise<{ item_id: string; title: string; due_at: number }[]> {
  return db('item')
    .join('course', 'course.id', 'item.course_id')
    .where('course.code', code)
    .whereNull('item.removed_at')
    .whereIn('item.course_id', db('enrolment').where(enrolmentInScope(viewer)).distinct('course_id'))
    .whereBetween('item.due_at', [from, to])
    .orderBy(['item.due_at', 'item.id'])
    .select('item.external_id as item_id', 'item.title', 'item.due_at');
}
