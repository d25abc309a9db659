/** What there is of one learner in a period: the rows that settle a claim. */
import type { Db } from '../db';
import { courseRowInScope, type Lens, type Viewer } from '../scope';

export interface TouchedItem {
  course: string;
  item_id: string;
  item: string;
  opens: number;
  ms: number;
  last: number | null;
}

interface Days {
  from: number;
  to: number;
}

/** Items the learner touched on some days, both included, the longest first. */
export async function itemsTouched(
  db: Db,
  viewer: Viewer,
  lens: Lens,
  learnerId: number,
  { from, to }: Days,
): Promise<TouchedItem[]> {
  const rows = db('item_day')
    .join('item', 'item.id', 'item_day.item_id')
    .where('item_day.learner_id', learnerId)
    .whereBetween('item_day.day', [from, to])
    .where('item_day.events', '>', 0)
    .select('item_day.*', 'item.course_id', 'item.external_id', 'item.title');
  return db
    .from(rows.as('t'))
    .join('course', 'course.id', 't.course_id')
    .where(courseRowInScope(db, viewer, 't'))
    .modify((query) => {
      if (lens.courseId !== undefined) query.where('t.course_id', lens.courseId);
    })
    .groupBy('t.item_id')
    .orderByRaw('sum(t.ms) DESC, t.item_id')
    .select(
      'course.code as course',
      't.external_id as item_id',
      't.title as item',
      db.raw('sum(t.opens) AS opens'),
      db.raw('sum(t.ms) AS ms'),
      db.raw('max(t.last) AS last'),
    );
}

/** The action words that mean that work was handed in. */
const HANDED_IN = ['submitted'];

export async function handIns(
  db: Db,
  viewer: Viewer,
  lens: Lens,
  learnerId: number,
  from: number,
  to: number,
): Promise<{ at: number; course: string; item: string }[]> {
  return db('event')
    .join('action', 'action.id', 'event.action_id')
    .join('course', 'course.id', 'event.course_id')
    .join('item', 'item.id', 'event.item_id')
    .where('event.learner_id', learnerId)
    .where('event.at', '>=', from)
    .where('event.at', '<', to)
    .whereIn('action.word', HANDED_IN)
    .where(courseRowInScope(db, viewer, 'event'))
    .modify((query) => {
      if (lens.courseId !== undefined) query.where('event.course_id', lens.courseId);
    })
    .orderBy('event.at')
    .select('event.at', 'course.code as course', 'item.title as item');
}
