/**
 * Counted days: calendar days without the course's breaks, the learner's agreed
 * absences and the days on which the log feed has a gap.
 */

/** First and last day, both included. */
export type DayRange = readonly [from: number, to: number];

/** Merges ranges into disjoint ones in order; a range that ends before it begins is dropped. */
export function mergeRanges(ranges: readonly DayRange[]): DayRange[] {
  const merged: [number, number][] = [];
  for (const [from, to] of [...ranges].filter(([a, b]) => b >= a).sort((a, b) => a[0] - b[0])) {
    const last = merged.at(-1);
    if (last && from <= last[1] + 1) last[1] = Math.max(last[1], to);
    else merged.push([from, to]);
  }
  return merged;
}

/**
 * How many counted days lie after `after` and up to `upTo`, that day included.
 * @param skipped disjoint ranges, as mergeRanges gives them
 */
export function countedDays(after: number, upTo: number, skipped: readonly DayRange[]): number {
  if (upTo <= after) return 0;
  let days = upTo - after;
  for (const [from, to] of skipped) {
    days -= Math.max(0, Math.min(to, upTo) - Math.max(from, after + 1) + 1);
  }
  return days;
}

/** Is the day one of the ranges'? */
export function isWithin(day: number, ranges: readonly DayRange[]): boolean {
  return ranges.some(([from, to]) => day >= from && day <= to);
}

/** No stretch of counted days is looked for further back than this. */
const FURTHEST = 730;

/**
 * The day after which the last `count` counted days up to `day` lie: `countedDays(it, day)` is
 * `count`. Where there are not so many, the furthest day looked at.
 */
export function countedBack(day: number, count: number, skipped: readonly DayRange[]): number {
  let left = count;
  let at = day;
  while (left > 0 && day - at < FURTHEST) {
    if (!isWithin(at, skipped)) left -= 1;
    at -= 1;
  }
  return at;
}
