/** For whom a rule works worse: reach and false alarms of parts of those it was tried on. */
import { groupBy } from '../group-by';
import { drawLearners, estimateOf, type Estimate } from './bootstrap';
import { isLeaver, reachedOn, type Listings, type TrialLearner } from './replay';

/** Fewer leavers of a part, or fewer who stayed, tell nothing of it. */
export const ENOUGH_OF_SUBGROUP = 10;
const DRAWS = 200;

/** What a rule came to in a part. */
export interface SubgroupMeasures {
  name: string;
  learners: number;
  leavers: number;
  /** Share of its leavers who were listed in time; null under 10 of them. */
  recall: Estimate | null;
  /** Share of those who did not leave who were listed at least once; null under 10 of them. */
  falseAlarms: Estimate | null;
  /** Does the whole interval lie on the worse side of what it is of everybody? */
  findsFewer: boolean;
  alarmsMore: boolean;
}

/** Opens a share of some places, to be asked for over and over with learners who count more than once. */
function openShare(places: readonly number[], is: (place: number) => boolean) {
  const yes = places.filter(is);
  return (counts?: Uint16Array) => {
    const total = (of: readonly number[]) => (counts ? of.reduce((sum, place) => sum + counts[place], 0) : of.length);
    const all = total(places);
    return all === 0 ? null : total(yes) / all;
  };
}

/**
 * Reach and false alarms by part, each with the middle 90 % of what it comes to when learners are drawn again. The largest part
 * first.
 *
 * @param nameOf the part of each learner, by their place; null of whoever is in none
 */
export function recallBySubgroup(
  learners: readonly TrialLearner[],
  listings: Listings,
  nameOf: (place: number) => string | null,
): SubgroupMeasures[] {
  const everybody = learners.map((_, place) => place);
  const draws = drawLearners(learners.length, DRAWS);
  const isReached = (place: number) => reachedOn(learners[place], listings[place]) !== null;
  const isListed = (place: number) => listings[place].length > 0;
  const ofWhom = (places: readonly number[]) => ({
    leavers: places.filter((place) => isLeaver(learners[place])),
    stayed: places.filter((place) => !learners[place].left),
  });
  const whole = ofWhom(everybody);
  const [recall, alarms] = [openShare(whole.leavers, isReached)() ?? 0, openShare(whole.stayed, isListed)() ?? 0];
  const estimate = (places: readonly number[], is: (place: number) => boolean) => {
    if (places.length < ENOUGH_OF_SUBGROUP) return null;
    const share = openShare(places, is);
    return estimateOf(share(), draws.map(share));
  };
  const parts = groupBy(
    everybody.filter((place) => nameOf(place) !== null),
    (place) => nameOf(place)!,
  );
  return [...parts]
    .map(([name, places]) => {
      const { leavers, stayed } = ofWhom(places);
      const [own, falseAlarms] = [estimate(leavers, isReached), estimate(stayed, isListed)];
      return {
        name,
        learners: places.length,
        leavers: leavers.length,
        recall: own,
        falseAlarms,
        findsFewer: own !== null && own.high !== null && own.high < recall,
        alarmsMore: falseAlarms !== null && falseAlarms.low !== null && falseAlarms.low > alarms,
      };
    })
    .sort((a, b) => b.learners - a.learners || (a.name < b.name ? -1 : 1));
}
