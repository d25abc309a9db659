/** What screens read of courses, each as its namesake in the data layer says. */
import * as coursesData from '@/data/courses/courses';
import { readOption, type CourseOptions } from '@/data/completion/options';
import { withRaw } from '@/data/db';
import { reader } from '../request/reader';
import type { Runtime } from '../runtime';

export const countedChoices = reader(coursesData.countedChoices);
export const courseItems = reader(coursesData.courseItems);
export const coursesSeen = reader(coursesData.coursesSeen);
export const itemsDue = reader(coursesData.itemsDue);
export const findSegment = reader(coursesData.findSegment);
export const segmentChoices = reader(coursesData.segmentChoices);
export const segmentLabel = reader(coursesData.segmentLabel);
export const listCourses = reader(coursesData.listCourses);
export const logsCompleteTo = reader(coursesData.logsCompleteTo);

/** An option of a course; null where it has none. */
export async function courseOption<K extends keyof CourseOptions>(
  { db }: Pick<Runtime, 'db'>,
  courseId: number,
  name: K,
): Promise<CourseOptions[K] | null> {
  return withRaw(db, (raw) => readOption(raw, courseId, name));
}
