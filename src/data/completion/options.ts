/** What is set for a course here, beside its outline. */
import type { CourseOptions } from '@/core/completion/options';
import { prepared, type Db, type RawConnection } from '../db';

/** All that is set for a course. */
export function readOptions(raw: RawConnection, courseId: number): CourseOptions {
  const rows = prepared(raw, 'SELECT name, value FROM course_option WHERE course_id = ?').all(courseId) as {
    name: string;
    value: string;
  }[];
  return Object.fromEntries(rows.map(({ name, value }) => [name, JSON.parse(value)]));
}

/** Keeps an option of a course, or takes it away where it is null. */
export async function keepOption<K extends keyof CourseOptions>(
  trx: Db,
  courseId: number,
  name: K,
  value: CourseOptions[K] | null,
): Promise<void> {
  await trx('course_option').where({ course_id: courseId, name }).delete();
  if (value !== null) await trx('course_option').insert({ course_id: courseId, name, value: JSON.stringify(value) });
}
