/** The history of grades. */
import type { Knex } from 'knex';
import type { Db } from '../db';
import { freeText, personColumns, staffName } from '../person';
import { seenEnrolments, type Moment } from '../view';

/** A change of a grade: the first one too, which stands in its attempt. */
export interface GradeChangeRow {
  id: number;
  at: number;
  learner_id: string;
  given_name: string;
  family_name: string;
  learner: number;
  course: string;
  item_id: string;
  item: string;
  number: number;
  old: number | null;
  score: number | null;
  points: number | null;
  by: string | null;
  why: string;
}

export interface ChangesSearch {
  learnerId?: number;
  item?: string;
  from?: number;
  to?: number;
  /** Only those after this place, newest first. */
  after?: { at: number; id: number } | null;
  limit: number;
}

/** Every change of grades in view, newest first: a first grade with nothing before it, and each one after. */
export async function gradeChanges(db: Db, view: Moment, search: ChangesSearch): Promise<GradeChangeRow[]> {
  const { id, given, family } = personColumns(view.viewer);
  const { learnerId, item, from = -8.64e15, to = 8.64e15, after = null, limit } = search;
  const until = view.asOf === null ? 8.64e15 : view.now;
  // Numbers of changes are told from those of attempts by their sign.
  const rows = `SELECT c.id AS id, c.at, c.learner_id, c.item_id, c.number, c.old_score AS old, c.score, c.points, c.staff_id, c.grader, c.why
      FROM grade_change c WHERE c.at >= :from AND c.at < :to AND c.at <= :until ${learnerId === undefined ? '' : 'AND c.learner_id = :learnerId'}
    UNION ALL SELECT -a.id, a.graded_at, a.learner_id, a.item_id, a.number, NULL, first.score, first.points, a.staff_id, first.grader, ''
      FROM attempt a JOIN (SELECT a.id, ifnull(c.old_score, a.score) AS score, ifnull(c.old_points, a.points) AS points,
          CASE WHEN c.id IS NULL THEN a.grader END AS grader
        FROM attempt a LEFT JOIN grade_change c ON c.id = (SELECT min(id) FROM grade_change g
          WHERE g.learner_id = a.learner_id AND g.item_id = a.item_id AND g.number = a.number)
        WHERE a.graded_at >= :from AND a.graded_at < :to AND a.graded_at <= :until
          ${learnerId === undefined ? '' : 'AND a.learner_id = :learnerId'}) AS first ON first.id = a.id
      WHERE first.score IS NOT NULL`;
  return seenEnrolments(db, view, 'all')
    .join('item', 'item.course_id', 'enrolment.course_id')
    .join(
      db.raw(`(${rows}) AS c`, { from, to, until, ...(learnerId === undefined ? {} : { learnerId }) }) as never,
      (on: Knex.JoinClause) => on.on('c.item_id', 'item.id').andOn('c.learner_id', 'enrolment.learner_id'),
    )
    .join('learner', 'learner.id', 'enrolment.learner_id')
    .join('course', 'course.id', 'enrolment.course_id')
    .leftJoin('staff', 'staff.id', 'c.staff_id')
    .modify((query) => {
      if (item !== undefined) query.where('item.external_id', item);
      if (after) query.whereRaw('(c.at, c.id) < (?, ?)', [after.at, after.id]);
    })
    .orderBy([
      { column: 'c.at', order: 'desc' },
      { column: 'c.id', order: 'desc' },
    ])
    .limit(limit)
    .select(
      'c.id',
      'c.at',
      db.raw(`${id} AS learner_id`),
      db.raw(`${given} AS given_name`),
      db.raw(`${family} AS family_name`),
      'learner.id as learner',
      'course.code as course',
      'item.external_id as item_id',
      'item.title as item',
      'c.number',
      'c.old',
      'c.score',
      'c.points',
      db.raw(`ifnull(${staffName(view.viewer)}, ${freeText(view.viewer, 'c.grader')}) AS "by"`),
      db.raw(`ifnull(${freeText(view.viewer, 'c.why')}, '') AS why`),
    );
}
