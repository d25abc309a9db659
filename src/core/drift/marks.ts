import { ramp } from './ramp';
import type { Said, Sentence } from './sentence';
import type { Factor } from './types';
import { resultsBy } from './work';

interface Marks extends Sentence {
  /** In per cent, whole. */
  mean: number;
  pass: number;
  graded: number;
}

/** Fewer graded assignments say nothing. */
const ENOUGH = 2;
/** Percentage points over the pass mark from which on marks are no reason. */
const EASE = 25;

/** Low marks: `ramp(pass mark + 25 − points-weighted mean of graded work, 0, 30)` in percentage points. */
export const marks: Factor = {
  name: 'marks',
  title: 'Marks',
  notCounted: 'marks (fewer than two assignments are graded)',
  weight: { early: 10, late: 10 },
  needs: ['work'],
  evidence: 'grades',
  words: {
    marks: ({ mean, pass, graded }: Marks): Said => ({
      fact: `${mean} % on graded work`,
      more: [`${graded} graded, pass mark ${pass} %`],
      short: `${mean} % on graded work`,
    }),
  },
  assess({ work, day }) {
    if (work.results.length < ENOUGH) return null;
    const graded = resultsBy(work, day);
    if (graded.length < ENOUGH) return null;
    let [earned, points] = [0, 0];
    for (const result of graded) {
      earned += result.share * result.points;
      points += result.points;
    }
    if (points <= 0) return null;
    const mean = (100 * earned) / points;
    return {
      value: ramp(work.passMark + EASE - mean, 0, 30),
      says: { name: 'marks', mean: Math.round(mean), pass: work.passMark, graded: graded.length },
    };
  },
};
