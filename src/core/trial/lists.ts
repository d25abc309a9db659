/** Lists of a rule over several cohorts, and how many places it has. */
import type { Cohort } from './cohort';
import { listWeekly, type Listings, type RankedWeek, type TrialLearner } from './replay';

/** Everybody of all cohorts in a row, with the days on which each was listed. */
export interface Replayed {
  learners: TrialLearner[];
  listings: Listings;
  perWeek: number[];
}

/**
 * Whole places of each week that come to so many a week.
 *
 * @example slotsEach(4, 1.5) // [1, 2, 1, 2]
 */
export function slotsEach(weeks: number, perWeek: number): number[] {
  return Array.from(
    { length: weeks },
    (_, week) => Math.floor((week + 1) * perWeek + ROUNDING) - Math.floor(week * perWeek + ROUNDING),
  );
}
const ROUNDING = 1e-9;

/** Lists of a rule over all cohorts, with the places that it is given in each week of each. */
export function replay(
  cohorts: readonly Cohort[],
  rank: (cohort: Cohort) => readonly RankedWeek[],
  placesOf: (cohort: number, week: number) => number | null,
): Replayed {
  const learners: TrialLearner[] = [];
  const listings: (readonly number[])[] = [];
  const perWeek: number[] = [];
  cohorts.forEach((cohort, index) => {
    const places = cohort.weeks.map((_, week) => placesOf(index, week));
    const listed = listWeekly(rank(cohort), cohort.learners.length, places);
    learners.push(...cohort.learners);
    listings.push(...listed.listings);
    perWeek.push(...listed.perWeek);
  });
  return { learners, listings, perWeek };
}

/** As many places a week in each cohort as a rule lists there, evenly over its weeks. */
export function loadOf(cohorts: readonly Cohort[], perWeek: readonly number[]): number[][] {
  let at = 0;
  return cohorts.map(({ weeks }) => {
    const share = perWeek.slice(at, at + weeks.length);
    at += weeks.length;
    return slotsEach(weeks.length, mean(share) ?? 0);
  });
}

/** Null of nothing. */
export function mean(values: readonly number[]): number | null {
  return values.length === 0 ? null : values.reduce((sum, value) => sum + value, 0) / values.length;
}
