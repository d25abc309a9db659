/** Work that waits on us: the newest hand-in has neither grade nor feedback. */
import type { Knex } from 'knex';
import type { Db } from '../db';
import { personColumns } from '../person';
import { seenEnrolments, type View } from '../view';

/** What the index of waiting attempts is of; SQLite uses it where a query says the same. */
const WAITS = 'a.submitted_at IS NOT NULL AND a.score IS NULL AND a.feedback IS NULL AND a.dismissed_at IS NULL';
/** Known at a past instant: what was graded later waited then. */
const WAITED = `a.submitted_at <= :now AND (a.graded_at > :now OR (a.score IS NULL AND a.feedback IS NULL))
  AND (a.dismissed_at IS NULL OR a.dismissed_at > :now)`;

export interface ToGradeRow {
  id: number;
  learner: number;
  learner_id: string;
  given_name: string;
  family_name: string;
  course: string;
  course_id: number;
  group: string | null;
  item_id: string;
  item: string;
  url: string | null;
  number: number;
  submitted_at: number;
}

/** Attempts in view that wait, of learners who are enrolled now; each learner's item once, by its newest hand-in. */
export function toGradeInView(db: Db, view: View): Knex.QueryBuilder {
  const { now, asOf } = view;
  return seenEnrolments(db, view)
    .join('item', 'item.course_id', 'enrolment.course_id')
    .whereNull('item.removed_at')
    .join('attempt as a', (on) => on.on('a.item_id', 'item.id').andOn('a.learner_id', 'enrolment.learner_id'))
    .whereRaw(asOf === null ? WAITS : WAITED, asOf === null ? {} : { now })
    .whereRaw(
      `NOT EXISTS (SELECT 1 FROM attempt n WHERE n.learner_id = a.learner_id AND n.item_id = a.item_id
         AND n.dismissed_at IS NULL AND n.id <> a.id AND n.submitted_at <= :now
         AND (n.submitted_at > a.submitted_at OR (n.submitted_at = a.submitted_at AND n.number > a.number)))`,
      { now: asOf === null ? Number.MAX_SAFE_INTEGER : now },
    );
}

/** Those that wait in view, oldest first, after a place. */
export async function toGradePage(
  db: Db,
  view: View,
  { after, limit }: { after: { at: number; id: number } | null; limit: number },
): Promise<ToGradeRow[]> {
  const { id, given, family } = personColumns(view.viewer);
  return toGradeInView(db, view)
    .join('learner', 'learner.id', 'enrolment.learner_id')
    .join('course', 'course.id', 'enrolment.course_id')
    .leftJoin('course_group as g', 'g.id', 'enrolment.group_id')
    .modify((query) => {
      if (after) query.whereRaw('(a.submitted_at, a.id) > (?, ?)', [after.at, after.id]);
    })
    .orderBy(['a.submitted_at', 'a.id'])
    .limit(limit)
    .select(
      'a.id',
      'learner.id as learner',
      db.raw(`${id} AS learner_id`),
      db.raw(`${given} AS given_name`),
      db.raw(`${family} AS family_name`),
      'course.code as course',
      'course.id as course_id',
      'g.name as group',
      'item.external_id as item_id',
      'item.title as item',
      'item.url',
      'a.number',
      'a.submitted_at',
    );
}
