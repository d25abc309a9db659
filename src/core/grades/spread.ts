/** How scores are spread, and what a unit's check before and after says. */
import { quantile } from '../statistics/quantile';

export interface Spread {
  n: number;
  mean: number | null;
  median: number | null;
  /** Null under five scores: so few have no spread that means anything. */
  low: number | null;
  high: number | null;
}

/** Fewer scores have no spread. */
const ENOUGH_TO_SPREAD = 5;

/** Mean, median and quartiles of scores in per cent. */
export function spreadOf(scores: readonly number[]): Spread {
  const n = scores.length;
  const isEnough = n >= ENOUGH_TO_SPREAD;
  return {
    n,
    mean: n === 0 ? null : scores.reduce((sum, score) => sum + score, 0) / n,
    median: quantile(scores, 0.5),
    low: isEnough ? quantile(scores, 0.25) : null,
    high: isEnough ? quantile(scores, 0.75) : null,
  };
}

/** How many scores lie in each tenth of 0–100 %; what is above 100 counts in the last. */
export function tenths(scores: readonly number[]): number[] {
  const counts = new Array<number>(10).fill(0);
  for (const score of scores) counts[Math.min(9, Math.max(0, Math.floor(score / 10)))] += 1;
  return counts;
}

export interface Gain {
  /** Learners who have both. */
  n: number;
  before: number | null;
  after: number | null;
  /** Mean of after less before, in percentage points. */
  gain: number | null;
}

/** The gain of a unit: of learners who have a score at its beginning and at its end. */
export function gainOf(pairs: readonly (readonly [before: number | null, after: number | null])[]): Gain {
  const both = pairs.filter((pair): pair is readonly [number, number] => pair[0] !== null && pair[1] !== null);
  const mean = (of: (pair: readonly [number, number]) => number) =>
    both.length === 0 ? null : both.reduce((sum, pair) => sum + of(pair), 0) / both.length;
  return {
    n: both.length,
    before: mean(([before]) => before),
    after: mean(([, after]) => after),
    gain: mean(([before, after]) => after - before),
  };
}
