/** Courses in view that have begun and are not over: those of which the Watch says what it cannot tell. */
import type { Db } from '../db';
import { begunEnrolments, type DriftView } from '../view';

export interface CourseUnderWay {
  id: number;
  code: string;
  /** Days; null where the course has none. */
  start: number | null;
  end: number | null;
  /** Assignments that have fallen due, sessions that were held, and discussions. */
  assignments: number;
  sessions: number;
  discussions: number;
  /** Items that are required, and assignments that have a due date. */
  required: number;
  dues: number;
  /** Does its platform say how far people are? */
  said: number;
}

export async function coursesUnderWay(db: Db, view: DriftView): Promise<CourseUnderWay[]> {
  const { now, readingDay } = view;
  const count = (sql: string, ...params: (string | number)[]) => db.raw(`(SELECT count(*) FROM ${sql})`, params);
  return db('course')
    .whereIn('course.id', begunEnrolments(db, view).distinct('enrolment.course_id'))
    .where((begun) => begun.whereNull('course.starts_day').orWhere('course.starts_day', '<=', readingDay))
    .where((open) => open.whereNull('course.ends_day').orWhere('course.ends_day', '>=', readingDay))
    .orderBy('course.code')
    .select({
      id: 'course.id',
      code: 'course.code',
      start: 'course.starts_day',
      end: 'course.ends_day',
      assignments: count(
        `item WHERE course_id = course.id AND removed_at IS NULL AND ifnull(due_at, 0) <= ?
           AND (kind IN ('quiz', 'assignment') OR points > 0)`,
        now,
      ),
      sessions: count(
        'session WHERE course_id = course.id AND cancelled = 0 AND removed_at IS NULL AND ends_at <= ?',
        now,
      ),
      required: count('item WHERE course_id = course.id AND removed_at IS NULL AND required = 1'),
      dues: count(
        `item WHERE course_id = course.id AND removed_at IS NULL AND due_at IS NOT NULL
           AND (kind IN ('quiz', 'assignment') OR points > 0)`,
      ),
      said: count(
        `(SELECT 1 FROM platform_snapshot WHERE course_id = course.id AND progress IS NOT NULL AND made_at <= ? LIMIT 1)`,
        now,
      ),
      discussions: count(`item WHERE course_id = course.id AND removed_at IS NULL AND kind = 'discussion'`),
    });
}
