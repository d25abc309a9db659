/** How often a learner usually comes: the expected gap between active days. */
import { quantile } from '../statistics/quantile';
import { countedDays, type DayRange } from './counted-days';

/** The group's habit weighs as much as this many gaps of the learner's own. */
const GROUP_WEIGHT = 4;
/** Expected of a group in which nobody has come twice yet, in days. */
const UNKNOWN_GAP = 3;
const SHORTEST = 1;
const LONGEST = 14;

/** Gaps in counted days between neighbouring active days. */
export function ownGaps(activeDays: readonly number[], skipped: readonly DayRange[]): number[] {
  const gaps: number[] = [];
  for (let i = 1; i < activeDays.length; i += 1) {
    // Two active days with nothing counted between them (a break) are no gap.
    const gap = countedDays(activeDays[i - 1], activeDays[i], skipped);
    if (gap > 0) gaps.push(gap);
  }
  return gaps;
}

/** The group's gap: the median of its learners' 75th percentiles; null when none has a gap yet. */
export function groupGap(gapsByLearner: readonly (readonly number[])[]): number | null {
  const usualGaps = gapsByLearner.map((gaps) => quantile(gaps, 0.75)).filter((gap) => gap !== null);
  return quantile(usualGaps, 0.5);
}

/**
 * `(n·own + 4·group) / (n + 4)`, between 1 and 14 days: own habit, pulled toward the
 * group's while little is known of the learner.
 */
export function expectedGap(gaps: readonly number[], group: number | null): number {
  const usualGap = quantile(gaps, 0.75) ?? 0;
  const pulled =
    group === null && gaps.length > 0
      ? usualGap
      : (gaps.length * usualGap + GROUP_WEIGHT * (group ?? UNKNOWN_GAP)) / (gaps.length + GROUP_WEIGHT);
  return Math.min(LONGEST, Math.max(SHORTEST, pulled));
}
