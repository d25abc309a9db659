/** Readings of everybody in view, with what explains them. */
import type { Band } from '@/core/drift/bands';
import type { Db } from '../db';
import { personColumns } from '../person';
import { begunEnrolments, idList, seenEnrolments, type DriftView } from '../view';
import { readExplanation, readingsByDay, type Explanation } from './drift';

/** An enrolment with its reading of a day. */
export interface DriftRow {
  /** Of the enrolment. */
  id: number;
  learner_id: string;
  name: string;
  course: string;
  score: number | null;
  band: Band | null;
}

/** Each enrolment in view that has begun, with its reading of the view's day, by drift or by name. */
export async function driftOf(
  db: Db,
  view: DriftView,
  sort: 'drift' | '-drift' | 'name' | '-name',
): Promise<DriftRow[]> {
  const { id, name, family, given } = personColumns(view.viewer);
  const down = sort.startsWith('-') ? 'DESC' : 'ASC';
  const nameDown = sort === '-name' ? 'DESC' : 'ASC';
  return begunEnrolments(db, view)
    .join('learner', 'learner.id', 'enrolment.learner_id')
    .join('course', 'course.id', 'enrolment.course_id')
    .leftJoin(readingsByDay(db, 'r'), (on) =>
      on.on('r.enrolment_id', 'enrolment.id').andOnVal('r.day', view.readingDay),
    )
    .orderByRaw(
      `${sort.endsWith('name') ? '' : `r.score ${down} NULLS LAST, `}${family} ${nameDown}, ${given} ${nameDown}, enrolment.id`,
    )
    .select(
      'enrolment.id',
      db.raw(`${id} AS learner_id`),
      db.raw(`${name} AS name`),
      'course.code as course',
      'r.score',
      'r.band',
    );
}

/** What explains the readings of some enrolments on a day. */
export async function explanationsOf(
  db: Db,
  enrolmentIds: readonly number[],
  day: number,
): Promise<Map<number, Explanation>> {
  const rows = await db('drift_reading')
    .whereIn('enrolment_id', idList(db, enrolmentIds))
    .where('day', day)
    .select('enrolment_id', 'reasons');
  return new Map(rows.map(({ enrolment_id, reasons }) => [enrolment_id, readExplanation(reasons)]));
}

/** An enrolment in view with its reading. */
export interface ReadEnrolment {
  id: number;
  learnerId: number;
  courseId: number;
  groupId: number | null;
  score: number | null;
  band: Band | null;
}

/** Every enrolment in view with its reading of the view's day. */
export async function readingsInView(db: Db, view: DriftView): Promise<ReadEnrolment[]> {
  return seenEnrolments(db, view)
    .leftJoin(readingsByDay(db, 'r'), (on) =>
      on.on('r.enrolment_id', 'enrolment.id').andOnVal('r.day', view.readingDay),
    )
    .orderBy('enrolment.id')
    .select(
      'enrolment.id',
      'enrolment.learner_id as learnerId',
      'enrolment.course_id as courseId',
      'enrolment.group_id as groupId',
      'r.score',
      'r.band',
    );
}
