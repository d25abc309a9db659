/** Replaying a rule on finished cohorts: whom it would have listed, week by week, with facts known then. */

/** Days for which whoever was listed gives up the place: they were contacted. */
export const GIVES_UP = 28;
/** A leaver is reached by a listing from so many days before their last activity to so many after it. */
const REACHED = { before: 28, after: 7 } as const;

/** One learner of a finished cohort, and how it ended. */
export interface TrialLearner {
  id: number;
  /** Did they withdraw, or stop without completing? */
  left: boolean;
  /** The day of their last activity; null of whoever never came. */
  lastDay: number | null;
}

/** A week's end, and the rule's list on it: places of learners, the one it puts first at the head. */
export interface RankedWeek {
  day: number;
  /** The week of the course, from 1. */
  week: number;
  ranked: readonly number[];
}

/** The days on which each learner was listed, by their place. */
export type Listings = readonly (readonly number[])[];

/**
 * Lists week by week as many as there are places, in the rule's order, without those who were listed in the last 28 days.
 *
 * @param places how many a week; all of the rule's own where it is null
 */
export function listWeekly(
  weeks: readonly RankedWeek[],
  learners: number,
  places: readonly (number | null)[],
): { listings: Listings; perWeek: number[] } {
  const listings: number[][] = Array.from({ length: learners }, () => []);
  const perWeek = weeks.map(({ day, ranked }, index) => {
    const room = places[index] ?? Infinity;
    let taken = 0;
    for (const place of ranked) {
      if (taken >= room) break;
      const last = listings[place].at(-1);
      if (last !== undefined && day - last < GIVES_UP) continue;
      listings[place].push(day);
      taken += 1;
    }
    return taken;
  });
  return { listings, perWeek };
}

/** Leavers whose last activity is known: whoever never came stands on a list of their own, and is not to be found. */
export function isLeaver({ left, lastDay }: TrialLearner): boolean {
  return left && lastDay !== null;
}

/** The first day on which a leaver was listed in time; null where they were not. */
export function reachedOn({ lastDay }: TrialLearner, listed: readonly number[]): number | null {
  if (lastDay === null) return null;
  return listed.find((day) => day >= lastDay - REACHED.before && day <= lastDay + REACHED.after) ?? null;
}

/** Leaving is looked for from so many days before a week's end to so many after it. */
const LEAVES = { before: 7, after: 28 } as const;

/** Does somebody leave about a day? Null of whoever has been gone for longer, or never came. */
export function leavesAbout({ left, lastDay }: TrialLearner, day: number): boolean | null {
  if (lastDay === null || lastDay < day - LEAVES.before) return null;
  return left && lastDay <= day + LEAVES.after;
}

/** What a rule comes to on a cohort; null where there is nothing to divide by. */
export interface Outcome {
  /** Share of leavers who were listed in time. */
  recall: number | null;
  /** Share of all listings that were of somebody who left. */
  precision: number | null;
  /** Median days from the first listing in time to the last activity. */
  lead: number | null;
}

/**
 * Opens what a rule came to, to be asked for over and over with learners who count more than once or not at all, as in a
 * bootstrap: what hangs on each is worked out once.
 */
export function openOutcome(
  learners: readonly TrialLearner[],
  listings: Listings,
): (weights?: ArrayLike<number>) => Outcome {
  const leads = learners.flatMap((learner, place) => {
    const on = isLeaver(learner) ? reachedOn(learner, listings[place]) : null;
    return on === null ? [] : [{ place, lead: learner.lastDay! - on }];
  });
  leads.sort((a, b) => a.lead - b.lead);
  return (weights) => {
    const countOf = (place: number) => (weights === undefined ? 1 : weights[place]);
    let [leavers, reached, listed, right] = [0, 0, 0, 0];
    learners.forEach((learner, place) => {
      const count = countOf(place);
      listed += count * listings[place].length;
      if (learner.left) right += count * listings[place].length;
      if (isLeaver(learner)) leavers += count;
    });
    for (const { place } of leads) reached += countOf(place);
    return {
      recall: leavers === 0 ? null : reached / leavers,
      precision: listed === 0 ? null : right / listed,
      lead: reached === 0 ? null : medianLead(leads, countOf, reached),
    };
  };
}

/** The median of leads in order, each counted so often. */
function medianLead(
  leads: readonly { place: number; lead: number }[],
  countOf: (place: number) => number,
  total: number,
): number {
  const at = (rank: number) => {
    let seen = 0;
    for (const { place, lead } of leads) {
      seen += countOf(place);
      if (seen > rank) return lead;
    }
    return leads[leads.length - 1].lead;
  };
  return (at(Math.floor((total - 1) / 2)) + at(Math.floor(total / 2))) / 2;
}
