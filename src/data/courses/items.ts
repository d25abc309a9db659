/** Items of a course as they are set: read one by one, changed, removed. */
import type { Db, RawConnection } from '../db';
import type { RowOf } from '../tables';

export type ItemRecord = RowOf<'item'>;

/** An item of a course by its own id. */
export async function findItem(db: Db, courseId: number, externalId: string): Promise<ItemRecord | undefined> {
  return db('item').where({ course_id: courseId, external_id: externalId }).first();
}

/** What an item is worth and called. */
export async function itemWorth(db: Db, itemId: number): Promise<{ points: number | null; title: string }> {
  const [item] = await db('item').where('id', itemId).select('points', 'title');
  return item;
}

/** All items of a course in its order, the removed ones too, with the titles of their units. */
export async function itemsOfCourse(db: Db, courseId: number): Promise<(ItemRecord & { unit: string | null })[]> {
  return db('item')
    .leftJoin('unit', 'unit.id', 'item.unit_id')
    .where('item.course_id', courseId)
    .orderBy(['item.position', 'item.id'])
    .select('item.*', 'unit.title as unit');
}

/** Items of a unit that are not removed, by the unit's title. */
export async function itemsOfUnit(
  db: Db,
  courseId: number,
  unit: string,
): Promise<{ external_id: string; opens_at: number | null }[]> {
  return db('item')
    .join('unit', 'unit.id', 'item.unit_id')
    .where('item.course_id', courseId)
    .where('unit.title', unit)
    .whereNull('item.removed_at')
    .select('item.external_id', 'item.opens_at');
}

/** Sets some of an item's columns. */
export async function updateItem(trx: Db, itemId: number, values: Partial<ItemRecord>): Promise<void> {
  await trx('item').where('id', itemId).update(values);
}

/** How many learners have attempts at an item. */
export async function countWhoTried(db: Db, itemId: number): Promise<number> {
  const [{ learners }] = (await db('attempt')
    .where('item_id', itemId)
    .select(db.raw('count(DISTINCT learner_id) AS learners'))) as { learners: number }[];
  return learners;
}

/** Titles of some items, by their ids. */
export function titlesOf(raw: RawConnection, itemIds: readonly number[]): Map<number, string> {
  const rows = raw
    .prepare('SELECT id, title FROM item WHERE id IN (SELECT value FROM json_each(?))')
    .all(JSON.stringify(itemIds)) as { id: number; title: string }[];
  return new Map(rows.map(({ id, title }) => [id, title]));
}

/** Numbers of the courses that have an item of an id. Ids are a course's own: another may have it too. */
export async function coursesOfItem(db: Db, itemId: string): Promise<number[]> {
  return db('item').where('external_id', itemId).pluck('course_id');
}

/** Positions that one outline gave to two items: what an import that began anew halfway would leave. */
export function placesTwice(raw: RawConnection): { course: string; position: number }[] {
  return raw
    .prepare(
      `SELECT course.code AS course, item.position FROM item JOIN course ON course.id = item.course_id
       WHERE item.imported_by IS NOT NULL GROUP BY item.course_id, item.imported_by, item.position HAVING count(*) > 1
       ORDER BY course.code, item.position`,
    )
    .all() as { course: string; position: number }[];
}

/** Items of a course that are there, by its code, as they may be chosen from; those that nobody has told of are left out. */
export async function itemsToldOf(db: Db, code: string | null): Promise<{ id: string; title: string }[]> {
  if (code === null) return [];
  return db('item')
    .join('course', 'course.id', 'item.course_id')
    .where('course.code', code)
    .whereNull('item.removed_at')
    .whereNull('item.provisional')
    .orderBy('item.position')
    .limit(500)
    .select('item.external_id as id', 'item.title');
}

/** Categories of a course's items by its code, in alphabetical order. */
export async function categoriesOf(db: Db, code: string | null): Promise<string[]> {
  if (code === null) return [];
  const rows = await db('item')
    .join('course', 'course.id', 'item.course_id')
    .where('course.code', code)
    .whereNull('item.removed_at')
    .whereNotNull('item.category')
    .distinct('item.category as category')
    .orderBy('item.category');
  return rows.flatMap(({ category }) => category ?? []);
}
