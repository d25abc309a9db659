import { countedDays } from './counted-days';
import { expectedGap, ownGaps } from './expected-gap';
import { ramp } from './ramp';
import type { EnrolmentFacts, Factor } from './types';

/** The day from which a learner could have been there: enrolment or course start, the later. */
export function firstDay(facts: EnrolmentFacts): number {
  return Math.max(facts.enrolledDay, facts.courseStart ?? facts.enrolledDay);
}

const round = (value: number) => Math.round(value * 10) / 10;

/**
 * Quiet against one's own habit: `ramp(d/g, 1.5, 5)` with d the counted days since last
 * access and g the expected gap; never accessed: `ramp(counted days since the start, 2, 10)`.
 */
export const quiet: Factor = {
  name: 'quiet',
  assess(facts, group) {
    const start = firstDay(facts);
    if (facts.day - start < 2) return null;
    const last = facts.activeDays.at(-1);
    if (last === undefined) {
      const waited = countedDays(start, facts.day, facts.skipped);
      return {
        value: ramp(waited, 2, 10),
        says: {
          name: 'never_opened',
          days: facts.day - start,
          since: start === facts.enrolledDay ? 'enrolled' : 'course began',
        },
      };
    }
    const quietDays = countedDays(last, facts.day, facts.skipped);
    const gap = expectedGap(ownGaps(facts.activeDays, facts.skipped), group.gap);
    return {
      value: ramp(quietDays / gap, 1.5, 5),
      says: { name: 'quiet', days: facts.day - last, counted: quietDays, usual: round(gap) },
    };
  },
};
