/** What a course has of its own, beside its outline. */
import type { ScaleStep, ScoreEdges } from '@/core/grades/bands';
import type { ShownSections } from '@/core/grades/shown';
import { prepared, type Db, type RawConnection } from '../db';

export interface CourseOptions {
  /** Attendance as a category of its grades. */
  attendance: { title: string; weight: number };
  bands: ScoreEdges;
  scale: ScaleStep[];
  /** What its learners are shown of their page. */
  shown: ShownSections;
}

/** An option of a course; null where it has none. */
export function readOption<K extends keyof CourseOptions>(
  raw: RawConnection,
  courseId: number,
  name: K,
): CourseOptions[K] | null {
  const found = prepared(raw, 'SELECT value FROM course_option WHERE course_id = ? AND name = ?')
    .pluck()
    .get(courseId, name) as string | undefined;
  return found === undefined ? null : (JSON.parse(found) as CourseOptions[K]);
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
