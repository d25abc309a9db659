/** Intervals by resampling learners, and the random lists that a rule is held against. */
import { quantile } from '../statistics/quantile';

/** Of an interval of 90 %. */
const LOW = 0.05;
const HIGH = 0.95;

/** A figure with its interval; null where there is nothing to tell by. */
export interface Estimate {
  value: number | null;
  low: number | null;
  high: number | null;
}

/**
 * Numbers in [0, 1) that are the same for the same seed: a trial run twice says the same.
 *
 * Source: Marsaglia's xorshift generator of 32 bits.
 */
export function seeded(seed: number): () => number {
  let state = seed | 0 || 1;
  return () => {
    state ^= state << 13;
    state ^= state >>> 17;
    state ^= state << 5;
    return (state >>> 0) / 2 ** 32;
  };
}

/** How often each of `count` places comes when as many are drawn with replacement. */
export function countDraws(count: number, random: () => number): Uint16Array {
  const counts = new Uint16Array(count);
  for (let i = 0; i < count; i += 1) counts[Math.floor(random() * count)] += 1;
  return counts;
}

/** What trials begin their chances with: each says the same when it is run again. */
export const SEED = 20_261;

/** How often each of some learners comes in so many draws of as many. */
export function drawLearners(count: number, draws: number): Uint16Array[] {
  const random = seeded(SEED);
  return Array.from({ length: draws }, () => countDraws(count, random));
}

/** The same places in another order. Source: the shuffle of Fisher and Yates. */
export function shuffled(places: readonly number[], random: () => number): number[] {
  const order = [...places];
  for (let i = order.length - 1; i > 0; i -= 1) {
    const j = Math.floor(random() * (i + 1));
    [order[i], order[j]] = [order[j], order[i]];
  }
  return order;
}

/** A figure with the middle 90 % of what it came to when drawn again. */
export function estimateOf(value: number | null, again: readonly (number | null)[]): Estimate {
  const known = again.filter((one) => one !== null);
  return {
    value,
    low: value === null ? null : quantile(known, LOW),
    high: value === null ? null : quantile(known, HIGH),
  };
}
