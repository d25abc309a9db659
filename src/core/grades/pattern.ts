/** What a learner's scores in time order look like. */
import { quantile } from '../statistics/quantile';

export type Pattern = 'steady low' | 'blip' | 'rising' | 'falling' | 'steady';

/** Fewer scores than these make no pattern; a blip needs one more, a slope is taken over the last six. */
const ENOUGH = 3;
const ENOUGH_FOR_BLIP = 4;
const SLOPE_OVER = 6;
/** Percentage points from one score to the next that make a rise or a fall. */
const SLOPE = 3;

/**
 * The Theil–Sen slope: the median of the slopes between all pairs (Theil 1950, Sen 1968). One score that is out of line
 * hardly moves it.
 *
 * @param values at equal distances
 */
export function theilSen(values: readonly number[]): number {
  const slopes: number[] = [];
  for (let i = 0; i < values.length; i += 1)
    for (let j = i + 1; j < values.length; j += 1) slopes.push((values[j] - values[i]) / (j - i));
  return quantile(slopes, 0.5) ?? 0;
}

/**
 * The pattern of some scores, the first that holds: *steady low*, a *blip*, *rising* or *falling*, else *steady*. Null for
 * fewer than three.
 *
 * @param scores in per cent, in time order
 * @param mark what is enough, in per cent
 * @example patternOf([80, 30, 75, 82], 50) // 'blip'
 */
export function patternOf(scores: readonly number[], mark: number): Pattern | null {
  if (scores.length < ENOUGH) return null;
  const last = scores.slice(-ENOUGH);
  // The median of three is below where two of them are.
  if (last.filter((score) => score < mark).length >= 2) return 'steady low';
  const below = scores.flatMap((score, index) => (score < mark ? [index] : []));
  if (scores.length >= ENOUGH_FOR_BLIP && below.length === 1) return 'blip';
  const slope = theilSen(scores.slice(-SLOPE_OVER));
  if (slope >= SLOPE) return 'rising';
  return slope <= -SLOPE ? 'falling' : 'steady';
}
