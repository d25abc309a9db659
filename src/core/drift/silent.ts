import { countedBack, isWithin, type DayRange } from './counted-days';
import { ramp } from './ramp';
import type { DayEfforts, Factor } from './types';

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
export const silent: Factor = {
  name: 'silent',
  assess(facts, group) {
    if (group.efforts === null || group.efforts < ENOUGH_OF_GROUP) return null;
    const own = recentEfforts(facts.efforts, facts.day, facts.skipped);
    return {
      value: ramp(1 - own / group.efforts, 0.5, 1),
      says: { name: 'silent', efforts: own, of: STRETCH, usual: Math.round(group.efforts) },
    };
  },
};
