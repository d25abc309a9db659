import { ramp } from './ramp';
import type { Said, Sentence } from './sentences';
import type { Factor } from './types';
import { gradedThen } from './work';

interface Falling extends Sentence {
  /** Percentage points beside everyone's mean, of the earlier and of the last two. */
  earlier: number;
  last: number;
}

const ENOUGH = 5;
const LAST = 2;

const mean = (values: readonly number[]) => values.reduce((sum, value) => sum + value, 0) / values.length;
const signed = (points: number) => `${points < 0 ? '−' : '+'}${Math.abs(points)}`;

/**
 * Falling marks: each result less everyone's mean on that piece, so that a hard piece is no fall; `ramp(mean of the earlier −
 * mean of the last 2, 0, 15)` in percentage points. Everyone is the group.
 */
export const falling: Factor<ReadonlyMap<number, number>> = {
  name: 'falling',
  title: 'Falling marks',
  notCounted: 'falling marks (fewer than five pieces are graded)',
  weight: { early: 10, late: 10 },
  needs: ['work'],
  words: {
    falling: ({ earlier, last }: Falling): Said => ({
      fact: earlier > last ? `Marks down ${earlier - last} points beside the group` : 'Marks are not falling',
      more: [`${signed(last)} beside its mean on the last two, ${signed(earlier)} before`],
      short: earlier > last ? `marks down ${earlier - last} points` : 'marks not falling',
    }),
  },
  /** Everyone's mean share on each piece. */
  ofGroup(members) {
    const sums = new Map<number, { sum: number; n: number }>();
    for (const member of members) {
      for (const { itemId, result } of member.pieces()) {
        if (result === null) continue;
        const known = sums.get(itemId) ?? { sum: 0, n: 0 };
        sums.set(itemId, { sum: known.sum + result.share, n: known.n + 1 });
      }
    }
    return new Map([...sums].map(([itemId, { sum, n }]) => [itemId, sum / n]));
  },
  assess({ pieces }, everyone) {
    const graded = gradedThen(pieces());
    if (graded.length < ENOUGH) return null;
    const beside = graded.map(({ itemId, result }) => 100 * (result.share - (everyone.get(itemId) ?? result.share)));
    const [earlier, last] = [mean(beside.slice(0, -LAST)), mean(beside.slice(-LAST))];
    return {
      value: ramp(earlier - last, 0, 15),
      says: { name: 'falling', earlier: Math.round(earlier), last: Math.round(last) },
    };
  },
};
