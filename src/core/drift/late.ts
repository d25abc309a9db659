import { ramp } from './ramp';
import type { Said, Sentence } from './sentences';
import type { Factor } from './types';

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
  words: {
    late: ({ late: count, of }: Late): Said => ({
      fact: count === 0 ? `None of the last ${of} hand-ins was late` : `${count} of the last ${of} hand-ins late`,
      more: [],
      short: count === 0 ? 'hands in on time' : `${count} of ${of} hand-ins late`,
    }),
  },
  assess({ pieces }) {
    const dated = pieces()
      .filter(({ handedInAt, dueAt }) => handedInAt !== null && dueAt !== null)
      .sort((a, b) => a.handedInAt! - b.handedInAt!)
      .slice(-LAST);
    if (dated.length < ENOUGH) return null;
    const count = dated.filter(({ handedInAt, dueAt }) => handedInAt! > dueAt!).length;
    return { value: ramp(count / dated.length, 0, 0.75), says: { name: 'late', late: count, of: dated.length } };
  },
};
