/** Days on which a course rests. */
import type { Db } from '../db';
import { enrolmentInSegment, enrolmentInScope, type ViewScope } from '../scope';

/** Adds days on which a course rests. The course's id; null when there is none with that code. */
export async function addBreak(
  db: Db,
  code: string,
  fromDay: number,
  toDay: number,
  reason: string,
): Promise<number | null> {
  const course = await db('course').where({ code }).first('id');
  if (!course) return null;
  await db('course_break')
    .insert({ course_id: course.id, from_day: fromDay, to_day: toDay, reason })
    .onConflict(['course_id', 'from_day', 'to_day'])
    .merge();
  return course.id;
}

export interface BreakRow {
  id: number;
  course_id: number;
  course: string;
  from_day: number;
  /** Included. */
  to_day: number;
  reason: string;
}

function breakRows(db: Db) {
  return db('course_break')
    .join('course', 'course.id', 'course_break.course_id')
    .select('course_break.*', 'course.code as course');
}

/** Every break, the latest first. */
export async function listBreaks(db: Db): Promise<BreakRow[]> {
  return breakRows(db).orderBy([{ column: 'from_day', order: 'desc' }, { column: 'course.code' }]);
}

/** Breaks of courses in view that touch some days, both included. */
export async function breaksBetween(
  db: Db,
  { viewer, segment }: ViewScope,
  from: number,
  to: number,
): Promise<BreakRow[]> {
  return breakRows(db)
    .where('from_day', '<=', to)
    .where('to_day', '>=', from)
    .whereIn(
      'course_break.course_id',
      db('enrolment').where(enrolmentInScope(viewer)).where(enrolmentInSegment(segment)).distinct('course_id'),
    )
    .orderBy('course.code');
}

/** Takes a break away; returns what it was, or null when there is none such. */
export async function deleteBreak(trx: Db, id: number): Promise<BreakRow | null> {
  const row = await breakRows(trx).where('course_break.id', id).first();
  if (row) await trx('course_break').where({ id }).delete();
  return row ?? null;
}
