import { countedBack, isWithin, type DayRange } from './counted-days';
import { ramp } from './ramp';
import { quantile } from '../statistics/quantile';
import { sayCount } from '../time/words';
import type { Said, Sentence } from './sentences';
import type { DayEfforts, Factor } from './types';

/** Talking and working events in so many days, and the group's median. */
interface Silent extends Sentence {
  efforts: number;
  of: number;
  usual: number;
}

/** Counted days looked at. */
const STRETCH = 28;
/** Where the group itself hardly talks or works, silence says nothing. */
const ENOUGH_OF_GROUP = 3;

/** Talking and working events in the last 28 counted days up to a day. */
export function recentEfforts(efforts: DayEfforts, day: number, skipped: readonly DayRange[]): number {
  const from = countedBack(day, STRETCH, skipped);
  let sum = 0;
  for (let i = efforts.length - 1; i >= 0 && efforts[i][0] > from; i -= 1) {
    if (efforts[i][0] <= day && !isWithin(efforts[i][0], skipped)) sum += efforts[i][1];
  }
  return sum;
}

/**
 * Silent beside one's group: `ramp(1 − own/median, 0.5, 1)` with own the learner's talking and
 * working events over 28 counted days and median that of the group.
 */
export const silent: Factor<number | null> = {
  name: 'silent',
  title: 'Silent',
  notCounted: 'silent (too little talk in the group)',
  weight: { early: 12, late: 4 },
  needs: ['days'],
  words: {
    silent: ({ efforts, of, usual }: Silent): Said => ({
      fact: `Worked or talked ${efforts === 0 ? 'not once' : sayCount(efforts, 'time')} in ${of} days`,
      more: [`half of the group ${sayCount(usual, 'time')} or more`],
      short: efforts === 0 ? 'no work or talk' : `worked or talked ${sayCount(efforts, 'time')}`,
    }),
  },
  /** The median of the members' events over the stretch; null of an empty group. */
  ofGroup: (members) =>
    quantile(
      members.map(({ efforts, day, skipped }) => recentEfforts(efforts, day, skipped)),
      0.5,
    ),
  assess(facts, median) {
    if (median === null || median < ENOUGH_OF_GROUP) return null;
    const own = recentEfforts(facts.efforts, facts.day, facts.skipped);
    return {
      value: ramp(1 - own / median, 0.5, 1),
      says: { name: 'silent', efforts: own, of: STRETCH, usual: Math.round(median) },
    };
  },
};
