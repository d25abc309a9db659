/** What screens read of courses, each as its namesake in the data layer says. */
import * as coursesData from '@/data/courses/courses';
import { reader } from '../request/reader';

export const countedChoices = reader(coursesData.countedChoices);
export const courseItems = reader(coursesData.courseItems);
export const coursesSeen = reader(coursesData.coursesSeen);
export const itemsDue = reader(coursesData.itemsDue);
export const findSegment = reader(coursesData.findSegment);
export const segmentChoices = reader(coursesData.segmentChoices);
export const segmentLabel = reader(coursesData.segmentLabel);
export const listCourses = reader(coursesData.listCourses);
export const logsCompleteTo = reader(coursesData.logsCompleteTo);
