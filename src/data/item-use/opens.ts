/** Opens per day of a course, from the counts kept by day. */
import type { Db } from '../db';
import { courseRowInScope, enrolmentInSegment, enrolmentInScope, isOfSome, type ViewScope } from '../scope';

export interface DayOpens {
  day: number;
  /** A kind, a group's name, or a role. */
  series: string;
  opens: number;
}

interface Days {
  first: number;
  /** Included. */
  last: number;
}

/** Does the viewer see the whole course, so that counts without persons are theirs to see? */
export function seesWholeCourse({ viewer, segment }: ViewScope, courseId: number): boolean {
  return (viewer.all || viewer.courses.includes(courseId)) && !isOfSome(segment);
}

/** Of a whole course, by kind or by role, from the counts by course and day. */
export async function opensOfCourse(
  db: Db,
  courseId: number,
  by: 'kind' | 'role',
  { first, last }: Days,
): Promise<DayOpens[]> {
  return db('course_day')
    .join('action', 'action.id', 'course_day.action_id')
    .where('course_day.course_id', courseId)
    .whereBetween('course_day.day', [first, last])
    .whereNot('action.kind', 'other')
    .modify((query) => {
      if (by === 'kind') query.where('course_day.staff', 0);
    })
    .groupByRaw('1, 2')
    .select(
      'course_day.day',
      by === 'kind' ? 'action.kind as series' : db.raw("CASE staff WHEN 1 THEN 'staff' ELSE 'learners' END AS series"),
      db.raw('sum(course_day.events) AS opens'),
    );
}

/** Of the learners in view in a course, by kind, by group, or all together, from the counts by learner and day. */
export async function opensOfLearners(
  db: Db,
  { viewer, segment }: ViewScope,
  courseId: number,
  by: 'kind' | 'group' | 'role',
  { first, last }: Days,
): Promise<DayOpens[]> {
  const rows = await db('enrolment')
    .where('enrolment.course_id', courseId)
    .where(enrolmentInScope(viewer))
    .where(enrolmentInSegment(segment))
    .join('learner_day as ld', (on) =>
      on.on('ld.learner_id', 'enrolment.learner_id').andOn('ld.course_id', 'enrolment.course_id'),
    )
    .where(courseRowInScope(db, viewer, 'ld'))
    .whereBetween('ld.day', [first, last])
    .leftJoin('course_group', 'course_group.id', 'enrolment.group_id')
    .groupByRaw('1, 2')
    .select(
      'ld.day',
      db.raw(by === 'group' ? "ifnull(course_group.name, 'no group') AS series" : "'learners' AS series"),
      db.raw('sum(ld.looked) AS looked'),
      db.raw('sum(ld.worked) AS worked'),
      db.raw('sum(ld.talked) AS talked'),
    );
  return rows.flatMap((row: { day: number; series: string; looked: number; worked: number; talked: number }) =>
    by === 'kind'
      ? (['looked', 'worked', 'talked'] as const).map((kind) => ({ day: row.day, series: kind, opens: row[kind] }))
      : [{ day: row.day, series: row.series, opens: row.looked + row.worked + row.talked }],
  );
}

/** The first and last day on which anybody did anything in a course; null before any. */
export async function courseSpan(db: Db, courseId: number): Promise<Days | null> {
  const [row] = await db('course_day')
    .where('course_id', courseId)
    .select<(Days | { first: null; last: null })[]>(db.raw('min(day) AS first'), db.raw('max(day) AS last'));
  return row.first === null ? null : row;
}
