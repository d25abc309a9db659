import { ramp } from './ramp';
import type { Said, Sentence } from './sentence';
import type { Factor } from './types';
import { resultsBy } from './work';

interface Falling extends Sentence {
  /** Percentage points beside everyone's mean, of the earlier and of the last two. */
  earlier: number;
  last: number;
}

const ENOUGH = 5;
const LAST = 2;

const signed = (points: number) => `${points < 0 ? '−' : '+'}${Math.abs(points)}`;

/**
 * Falling marks: each result less everyone's mean on that assignment, so that a hard assignment is no fall; `ramp(mean of the earlier −
 * mean of the last 2, 0, 15)` in percentage points. Everyone is the group.
 */
export const falling: Factor<readonly number[]> = {
  name: 'falling',
  title: 'Falling marks',
  notCounted: 'falling marks (fewer than five assignments are graded)',
  weight: { early: 10, late: 10 },
  needs: ['work'],
  evidence: 'grades',
  words: {
    falling: ({ earlier, last }: Falling): Said => ({
      fact: earlier > last ? `Marks fell ${earlier - last} points more than the group’s` : 'Marks are not falling',
      more: [`${signed(last)} beside its mean on the last two, ${signed(earlier)} before`],
      short: earlier > last ? `marks fell ${earlier - last} points` : 'marks not falling',
    }),
  },
  /** Everyone's mean share on each assignment, by its place. */
  ofGroup(members) {
    const [sums, counts]: [number[], number[]] = [[], []];
    for (const { work, day } of members) {
      for (const { place, share } of resultsBy(work, day)) {
        sums[place] = (sums[place] ?? 0) + share;
        counts[place] = (counts[place] ?? 0) + 1;
      }
    }
    return sums.map((sum, place) => sum / counts[place]);
  },
  assess({ work, day }, everyone) {
    // Fewer than are graded in all are graded by a day.
    if (work.results.length < ENOUGH) return null;
    const graded = resultsBy(work, day);
    if (graded.length < ENOUGH) return null;
    let [earlier, last] = [0, 0];
    for (let i = 0; i < graded.length; i += 1) {
      const { place, share } = graded[i];
      const beside = 100 * (share - everyone[place]);
      if (i < graded.length - LAST) earlier += beside / (graded.length - LAST);
      else last += beside / LAST;
    }
    return {
      value: ramp(earlier - last, 0, 15),
      says: { name: 'falling', earlier: Math.round(earlier), last: Math.round(last) },
    };
  },
};
