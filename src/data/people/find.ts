/** Search over courses and items, within what the viewer sees. */
import type { Db } from '../db';
import { likePattern } from './learners';
import { enrolmentInScope, type Viewer } from '../scope';

/** Courses in which the viewer sees somebody. */
function seenCourses(db: Db, viewer: Viewer) {
  return db('course').whereExists(
    db('enrolment').whereRaw('enrolment.course_id = course.id').where(enrolmentInScope(viewer)),
  );
}

function words(q: string): string[] {
  return q.split(/\s+/).filter(Boolean);
}

export async function findCourses(db: Db, viewer: Viewer, q: string, limit: number) {
  const query = seenCourses(db, viewer);
  for (const word of words(q))
    query.whereRaw(`fold_text(course.code || ' ' || course.title) LIKE ? ESCAPE '\\'`, [likePattern(word)]);
  return (await query.orderBy('course.title').limit(limit).select('course.code', 'course.title')) as {
    code: string;
    title: string;
  }[];
}

export interface FoundItem {
  id: number;
  course_id: number;
  course: string;
  item_id: string;
  item: string;
  kind: string;
}

const FOUND_ITEM = [
  'item.id',
  'item.course_id',
  'course.code as course',
  'item.external_id as item_id',
  'item.title as item',
  'item.kind',
] as const;

export async function findItems(db: Db, viewer: Viewer, q: string, limit: number): Promise<FoundItem[]> {
  const query = db('item')
    .join('course', 'course.id', 'item.course_id')
    .whereIn('item.course_id', seenCourses(db, viewer).select('course.id'));
  for (const word of words(q)) {
    query.whereRaw(`fold_text(item.title || ' ' || item.external_id) LIKE ? ESCAPE '\\'`, [likePattern(word)]);
  }
  return query
    .orderBy(['course.code', 'item.position'])
    .limit(limit)
    .select(...FOUND_ITEM);
}

/** An item of a course in which the viewer sees somebody, by the course's code and its own id. */
export async function findItem(db: Db, viewer: Viewer, course: string, itemId: string): Promise<FoundItem | null> {
  const row = await db('item')
    .join('course', 'course.id', 'item.course_id')
    .whereIn('item.course_id', seenCourses(db, viewer).select('course.id'))
    .where('course.code', course)
    .where('item.external_id', itemId)
    .select(...FOUND_ITEM)
    .first();
  return row ?? null;
}
