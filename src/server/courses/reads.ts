/** What screens read of courses, each as its namesake in the data layer says. */
import * as coursesData from '@/data/courses/courses';
import * as dueItemsData from '@/data/courses/due-items';
import * as segmentsData from '@/data/courses/segments';
import * as sourcesData from '@/data/feed/sources';
import { reader } from '../request/reader';

export const countedChoices = reader(segmentsData.countedChoices);
export const courseItems = reader(dueItemsData.courseItems);
export const coursesSeen = reader(segmentsData.coursesSeen);
export const itemsDue = reader(dueItemsData.itemsDue);
export const findSegment = reader(segmentsData.findSegment);
export const segmentChoices = reader(segmentsData.segmentChoices);
export const segmentLabel = reader(segmentsData.segmentLabel);
export const listCourses = reader(coursesData.listCourses);
export const logsCompleteTo = reader(sourcesData.logsCompleteTo);
