import { ramp } from './ramp';
import type { Said, Sentence } from './sentences';
import type { EnrolmentFacts, Factor } from './types';

interface Behind extends Sentence {
  /** To a tenth; below 0 for somebody ahead. */
  weeks: number;
  done: number;
  planned: number;
}

/** Fewer items planned by now say nothing. */
const ENOUGH = 4;

/**
 * Behind plan: `ramp(weeks behind, 0, 2)` with weeks behind = (required items planned by now − done) / items planned a week.
 * Where learners start when they like, the plan runs from their own start.
 */
export const behind: Factor = {
  name: 'behind',
  title: 'Behind plan',
  notCounted: 'behind plan (too little is planned by now)',
  weight: { early: 10, late: 10 },
  needs: ['work'],
  words: {
    behind: ({ weeks, done, planned }: Behind): Said => ({
      fact:
        weeks > 0
          ? `${weeks} ${weeks === 1 ? 'week' : 'weeks'} behind plan`
          : weeks < 0
            ? `${-weeks} ${weeks === -1 ? 'week' : 'weeks'} ahead of plan`
            : 'Level with plan',
      more: [`${done} done, ${planned} planned by now`],
      short: weeks > 0 ? `${weeks} weeks behind plan` : 'not behind plan',
    }),
  },
  assess(facts) {
    const found = weeksBehind(facts);
    if (found === null || found.planned < ENOUGH) return null;
    const { weeks, done, planned } = found;
    return { value: ramp(weeks, 0, 2), says: { name: 'behind', weeks: Math.round(10 * weeks) / 10, done, planned } };
  },
};

/** Weeks of plan behind by the end of a day, below 0 for somebody ahead; null where nothing has a plan. */
export function weeksBehind({
  work: { plan, doneDays },
  day,
  courseStart,
  courseEnd,
}: EnrolmentFacts): { weeks: number; done: number; planned: number } | null {
  if (plan.length === 0) return null;
  const first = courseStart ?? plan[0];
  const last = Math.max(courseEnd ?? -Infinity, plan[plan.length - 1]);
  const perWeek = (7 * plan.length) / Math.max(7, last - first + 1);
  const [planned, done] = [countUpTo(plan, day), countUpTo(doneDays, day)];
  return { weeks: (planned - done) / perWeek, done, planned };
}

/** How many of some ascending days lie up to one. */
export function countUpTo(days: readonly number[], day: number): number {
  let count = 0;
  while (count < days.length && days[count] <= day) count += 1;
  return count;
}
