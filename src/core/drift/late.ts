import { ramp } from './ramp';
import type { Said, Sentence } from './sentence';
import type { Factor } from './types';
import { isExcused, isExtended, isHandedIn } from './work';

interface Late extends Sentence {
  late: number;
  of: number;
}

/** Hand-ins looked at, and fewer than which say nothing. */
const LAST = 4;
const ENOUGH = 2;

/** Late work: `ramp(late share of the last 4 hand-ins that had a date, 0, 0.75)`. */
export const late: Factor = {
  name: 'late',
  title: 'Late work',
  notCounted: 'late work (fewer than two hand-ins had a date)',
  weight: { early: 5, late: 5 },
  needs: ['work'],
  evidence: 'hand_ins',
  words: {
    late: ({ late: count, of }: Late): Said => ({
      fact: count === 0 ? `None of the last ${of} hand-ins was late` : `${count} of the last ${of} hand-ins late`,
      more: [],
      short: count === 0 ? 'hands in on time' : `${count} of ${of} hand-ins late`,
    }),
  },
  assess({ work: { dueItems, own, handedIn }, day }) {
    let [of, count] = [0, 0];
    for (let i = handedIn.length - 1; i >= 0 && of < LAST; i -= 1) {
      const mine = own[handedIn[i]];
      if (!isHandedIn(mine, day) || isExcused(mine, day)) continue;
      const dueAt = isExtended(mine, day) ? mine.dueAt : dueItems[handedIn[i]].dueAt;
      if (dueAt === null) continue;
      of += 1;
      if (mine.handedInAt! > dueAt) count += 1;
    }
    if (of < ENOUGH) return null;
    return { value: ramp(count / of, 0, 0.75), says: { name: 'late', late: count, of } };
  },
};
