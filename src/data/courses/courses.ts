/** Courses by themselves, whoever asks. */
import { countOf, type Db } from '../db';

/** SQL: a course, by its alias, was not dropped. What hangs on a dropped one is out of sight by itself. */
export function courseIsThere(alias: string): string {
  return `NOT EXISTS (SELECT 1 FROM dropped d WHERE d.kind = 'course' AND d.record_id = ${alias}.id)`;
}

/** Every course there is, by title. */
export async function listCourses(db: Db): Promise<{ code: string; title: string }[]> {
  return db('course').whereRaw(courseIsThere('course')).orderBy(['title', 'code']).select('code', 'title');
}

/** The course that a group belongs to, by the group's id. */
export async function courseOfGroup(db: Db, groupId: number): Promise<number> {
  const [courseId] = await db('course_group').where('id', groupId).pluck('course_id');
  return courseId;
}

/** What is asked of a course before it is archived; undefined where there is no such course. */
export async function courseToArchive(
  trx: Db,
  code: string,
): Promise<
  { id: number; ends_day: number | null; isProvisional: 0 | 1; isAsked: 0 | 1; hasEvents: 0 | 1 } | undefined
> {
  return trx('course')
    .where({ code })
    .first(
      'id',
      'ends_day',
      trx.raw('provisional IS NOT NULL AS isProvisional'),
      trx.raw(`EXISTS (SELECT 1 FROM archive WHERE course_id = course.id AND state <> 'done') AS isAsked`),
      trx.raw('EXISTS (SELECT 1 FROM event WHERE course_id = course.id) AS hasEvents'),
    );
}

/** Courses that ended before a day, that are not provisional, and whose events are in the log. */
export async function endedWithLog(db: Db, today: number): Promise<{ code: string; title: string }[]> {
  return db('course')
    .where('ends_day', '<', today)
    .whereNull('provisional')
    .whereNotIn('id', db('archive').whereNot('state', 'done').select('course_id'))
    .whereExists(db('event').whereRaw('event.course_id = course.id'))
    .orderBy('code')
    .select('code', 'title');
}

/** How many events of a course are in the log. */
export async function countEvents(db: Db, courseId: number): Promise<number> {
  return countOf(db('event').where('course_id', courseId));
}

/** A course's id by its code, whoever asks; null where there is none. */
export async function courseIdOf(db: Db, code: string): Promise<number | null> {
  return (await db('course').where({ code }).first('id'))?.id ?? null;
}

/** Codes and titles of some courses, by their numbers. */
export async function coursesById(
  db: Db,
  ids: readonly number[],
): Promise<Map<number, { code: string; title: string }>> {
  const rows = await db('course').whereIn('id', ids).select('id', 'code', 'title');
  return new Map(rows.map(({ id, ...course }) => [id, course]));
}

/** Pass marks by the course's id; null where a course has none. */
export async function passMarks(db: Db): Promise<Map<number, number | null>> {
  return new Map((await db('course').select('id', 'pass_mark')).map(({ id, pass_mark }) => [id, pass_mark]));
}

/** Sets what an outline may bring of a course too: its days, its pass mark. */
export async function updateCourse(
  trx: Db,
  courseId: number,
  values: { starts_day?: number | null; ends_day?: number | null; pass_mark?: number | null },
): Promise<void> {
  await trx('course').where('id', courseId).update(values);
}
