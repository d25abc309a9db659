/** What screens read of people, each as its namesake in the data layer says. */
import * as learnersData from '@/data/people/learners';
import * as rosterData from '@/data/people/roster';
import { reader } from '../request/reader';

export const coursesWithGroups = reader(rosterData.coursesWithGroups);
export const findLearner = reader(learnersData.findLearner);
export const missingFromLastFile = reader(rosterData.missingFromLastFile);
export const namesOf = reader(learnersData.namesOf);
