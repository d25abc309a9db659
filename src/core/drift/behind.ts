import { plural } from '../time/words';
import { countedDays } from './counted-days';
import { firstDay } from './first-day';
import { ramp } from './ramp';
import type { Said, Sentence } from './sentence';
import type { Assessment, EnrolmentFacts, Factor } from './types';

interface Behind extends Sentence {
  /** To a tenth; below 0 for somebody ahead. */
  weeks: number;
  done: number;
  planned: number;
}

interface BehindByPlatform extends Sentence {
  weeks: number;
  /** Per cent that the platform says, and that an even pace would have had on that day. */
  says: number;
  planned: number;
}

/** Fewer items planned by now say nothing. */
const ENOUGH = 4;

/** What a platform says is judged by once so many per cent would be done at an even pace, and for so many counted days. */
const ENOUGH_PERCENT = 10;
const SAID_HOLDS = 14;

/** How far behind, in words. @example sayWeeks(-1) // "1 week ahead of plan" */
function sayWeeks(weeks: number): string {
  if (weeks === 0) return 'Level with plan';
  return weeks > 0
    ? `${weeks} ${plural(weeks, 'week')} behind plan`
    : `${-weeks} ${weeks === -1 ? 'week' : 'weeks'} ahead of plan`;
}

/**
 * Behind plan: `ramp(weeks behind, 0, 2)` with weeks behind = (required items planned by now − done) / items planned a week.
 * The plan is one's own: what it had before somebody's first day is spread from then to the course's end. Items that only
 * evidence can make done of which the course tells nothing are no part of it, and without a beginning and an end there is none.
 * Where there is no plan of ours, what the platform says is judged by, against an even pace from one's first day to the end.
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
      fact: sayWeeks(weeks),
      more: [`${done} done, ${planned} planned by now`],
      short: sayShort(weeks),
    }),
    behind_by_platform: ({ weeks, says, planned }: BehindByPlatform): Said => ({
      fact: sayWeeks(weeks),
      more: [`the platform says ${says} %, ${planned} % at an even pace`],
      short: sayShort(weeks),
    }),
  },
  assess(facts) {
    const found = weeksBehind(facts);
    if (found === null) return assessPlatform(facts);
    if (found.planned < ENOUGH) return null;
    const { weeks, done, planned } = found;
    return { value: ramp(weeks, 0, 2), says: { name: 'behind', weeks: Math.round(10 * weeks) / 10, done, planned } };
  },
};

const sayShort = (weeks: number) => (weeks > 0 ? `${weeks} weeks behind plan` : 'not behind plan');

/**
 * By the last share that the platform said of them: `planned` per cent at an even pace on the day it was said, less that share,
 * in weeks of that pace. Null where it said nothing lately, or there is too little of the pace to go by.
 */
function assessPlatform(facts: EnrolmentFacts): Assessment | null {
  const { work, courseEnd, day, skipped } = facts;
  const said = work.saidByPlatform.findLast(([on]) => on <= day);
  if (facts.courseStart === null || courseEnd === null || said === undefined) return null;
  const [on, percent] = said;
  const first = firstDay(facts);
  if (courseEnd <= first || countedDays(on, day, skipped) > SAID_HOLDS) return null;
  const planned = Math.min(100, (100 * (on - first)) / (courseEnd - first));
  if (planned < ENOUGH_PERCENT) return null;
  const weeks = ((planned - percent) * (courseEnd - first)) / 700;
  const says = { weeks: Math.round(10 * weeks) / 10, says: Math.round(percent), planned: Math.round(planned) };
  return { value: ramp(weeks, 0, 2), says: { name: 'behind_by_platform', ...says } };
}

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
