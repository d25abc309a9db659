import type { EnrolmentFacts } from './types';

/** The day from which a learner could have been there: enrolment or course start, the later. */
export function firstDay(facts: EnrolmentFacts): number {
  return Math.max(facts.enrolledDay, facts.courseStart ?? facts.enrolledDay);
}
