import { plural } from '../time/words';
import { firstDay } from './first-day';
import { ramp } from './ramp';
import type { Said, Sentence } from './sentence';
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
 * The plan is one's own: what it had before somebody's first day is spread from then to the course's end. Items that only
 * evidence can make done of which the course tells nothing are no part of it, and without a beginning and an end there is none.
 */
export const behind: Factor = {
  name: 'behind',
  title: 'Behind plan',
  notCounted: 'behind plan (too little is planned by now)',
  weight: { early: 10, late: 10 },
  needs: ['work'],
  evidence: null,
  words: {
    behind: ({ weeks, done, planned }: Behind): Said => ({
      fact:
        weeks > 0
          ? `${weeks} ${plural(weeks, 'week')} behind plan`
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

/**
 * Weeks of plan behind by the last day that the log can tell of, below 0 for somebody ahead; null where there is no plan, or
 * nothing of it can be told.
 */
export function weeksBehind(facts: EnrolmentFacts): { weeks: number; done: number; planned: number } | null {
  const { work, courseStart, courseEnd, untold, toldTo } = facts;
  if (courseStart === null || courseEnd === null) return null;
  let [of, planned, done, last] = [0, 0, 0, courseEnd];
  for (const { needs, plan, done: doneDays } of work.tracks) {
    if (plan.length === 0 || needs.some((kind) => untold.has(kind))) continue;
    of += plan.length;
    planned += countUpTo(plan, toldTo);
    done += countUpTo(doneDays, toldTo);
    last = Math.max(last, plan[plan.length - 1]);
  }
  if (of === 0) return null;
  const perWeek = (7 * of) / Math.max(7, last - firstDay(facts) + 1);
  return { weeks: (planned - done) / perWeek, done, planned };
}

/**
 * The plan of whoever came later: what it had before their first day is spread evenly from then to the course's end, so that
 * being behind tells whether they catch up and not that they came late.
 *
 * @param tracks planned days of each track, ascending
 * @example spreadLate([[3, 8, 30]], 10, 30) // [[20, 30, 30]]: two of them over 20 days
 */
export function spreadLate(tracks: readonly (readonly number[])[], first: number, end: number): number[][] {
  const before = tracks.reduce((sum, plan) => sum + plan.filter((day) => day < first).length, 0);
  if (before === 0 || end <= first) return tracks.map((plan) => [...plan]);
  // In the order of the plan, whatever the track: each gets its turn.
  const turns = tracks.flatMap((plan, track) => plan.flatMap((day, at) => (day < first ? [{ track, at, day }] : [])));
  turns.sort((a, b) => a.day - b.day || a.track - b.track || a.at - b.at);
  const spread = tracks.map((plan) => [...plan]);
  for (const [turn, { track, at }] of turns.entries())
    spread[track][at] = first + Math.ceil(((end - first) * (turn + 1)) / before);
  return spread.map((plan) => plan.sort((a, b) => a - b));
}

/** How many of some ascending days lie up to one. */
export function countUpTo(days: readonly number[], day: number): number {
  let count = 0;
  while (count < days.length && days[count] <= day) count += 1;
  return count;
}
