/** What screens read of people, each as its namesake in the data layer says. */
import * as enrolmentsData from '@/data/people/enrolments';
import * as learnersData from '@/data/people/learners';
import * as rosterData from '@/data/people/roster';
import type { Viewer } from '@/data/scope';
import { reader } from '../request/reader';

export const coursesWithGroups = reader(rosterData.coursesWithGroups);
export const findLearner = reader(learnersData.findLearner);
export const missingFromLastFile = reader(rosterData.missingFromLastFile);
export const namesOf = reader(learnersData.namesOf);

/** The crew of some courses, whichever group. */
export const crewOfCourses = reader((db, viewer: Viewer, courseIds: readonly number[]) =>
  enrolmentsData.crewOf(
    db,
    viewer,
    courseIds.map((course_id) => ({ course_id, group_id: null })),
  ),
);
