/** Items and categories that a report is cut to, by the names they were chosen by. */
import type { Db } from '../db';
import { seenEnrolments, type View } from '../view';

/** Titles of items by their ids, and categories as they are called, in the courses in view; who is not there is missing. */
export async function titlesOfItems(db: Db, names: readonly string[], view: View): Promise<Map<string, string>> {
  if (names.length === 0) return new Map();
  const courses = seenEnrolments(db, view, 'all').distinct('enrolment.course_id');
  const named = JSON.stringify(names);
  const items: { name: string; title: string }[] = await db('item')
    .whereIn('item.course_id', courses)
    .whereRaw('item.external_id IN (SELECT value FROM json_each(?))', [named])
    .orderBy(['item.course_id', 'item.position'])
    .select('item.external_id as name', 'item.title');
  const categories: string[] = await db('item')
    .whereIn('item.course_id', courses.clone())
    .whereRaw('item.category IN (SELECT value FROM json_each(?))', [named])
    .distinct('item.category')
    .pluck('item.category');
  // Of items alike in two courses the first one's title stands; an item goes before a category of the same name.
  return new Map([
    ...categories.map((name): [string, string] => [name, name]),
    ...items.map(({ name, title }): [string, string] => [name, title]).reverse(),
  ]);
}
