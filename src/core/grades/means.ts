/** The three means of a learner's grades in a course. */

import { sayCount } from '../time/words';

/** One item's part in the means. */
export interface GradedItem {
  /** Null for one that belongs to none. */
  category: string | null;
  /** Points to be had; null where it has none, and then it counts only by what its result says. */
  points: number | null;
  /** Share of the points that counts, 0 or more; null for one that is not graded. */
  share: number | null;
  /** The points of the result, for an item without any. */
  resultPoints: number | null;
  /** Owed now: past its date and nothing handed in. */
  isOverdue: boolean;
  isExempt: boolean;
}

/** A category with its weight; null for none given. */
export interface Category {
  name: string;
  weight: number | null;
}

/** Attendance as a category: its rate 0–1, or null while nothing is counted. */
export interface AttendanceGrade {
  weight: number;
  rate: number | null;
}

/** In per cent; null where there is nothing to take a mean of. */
export interface Means {
  on_graded_work: number | null;
  of_whole_course: number | null;
  if_missing_scores_0: number | null;
}

export const MEAN_WORDS: Record<keyof Means, string> = {
  on_graded_work: 'on graded work',
  if_missing_scores_0: 'if missing work scores 0',
  of_whole_course: 'of the whole course',
};

/**
 * Weights of categories: as they are given, however they add up. Where none is given, or all are 0, there are no weights
 * and every point counts alike; one without a weight among others that have one counts nothing.
 */
function weightsOf(categories: readonly Category[]): Map<string, number> | null {
  const any = categories.some(({ weight }) => weight !== null && weight > 0);
  return any ? new Map(categories.map(({ name, weight }) => [name, weight ?? 0])) : null;
}

/** Score and points of a category: of graded work, of that and what is overdue, of everything. */
interface Sums {
  score: number;
  graded: number;
  overdue: number;
  all: number;
}

/**
 * The three means. On graded work: per category Σ score / Σ points over graded items, then the weighted mean over
 * categories that have any. Of the whole course: everything not yet earned at 0. If missing work scores 0: graded work, and
 * what is overdue at 0. Exempt items leave all of them; an item's points are those it has now, and a result counts by its
 * share of the points it was given out of.
 *
 * @example one category, 8 of 10 graded, 10 points overdue, 20 to come: 80, 20 and 40
 */
export function meansOf(
  items: readonly GradedItem[],
  categories: readonly Category[],
  attendance: AttendanceGrade | null = null,
): Means {
  const weights = weightsOf(categories);
  const sums = new Map<string, Sums>();
  for (const { isExempt, category, points: own, resultPoints, share, isOverdue } of items) {
    const points = own ?? resultPoints;
    if (isExempt || points === null || points <= 0) continue;
    const key = weights ? (category ?? '') : '';
    let sum = sums.get(key);
    if (!sum) sums.set(key, (sum = { score: 0, graded: 0, overdue: 0, all: 0 }));
    sum.all += points;
    if (share !== null) {
      sum.score += share * points;
      sum.graded += points;
    } else if (isOverdue) sum.overdue += points;
  }
  const mean = (pointsOf: (sum: Sums) => number): number | null => {
    let [weighted, all] = [0, 0];
    const hasAttendance = attendance !== null && attendance.rate !== null;
    // Beside a weight of attendance, work without weights of its own weighs the rest of 100.
    const unweighted = hasAttendance ? Math.max(0, 100 - attendance.weight) : 1;
    for (const [key, sum] of sums) {
      const points = pointsOf(sum);
      if (points === 0) continue;
      const weight = weights ? (weights.get(key) ?? 0) : unweighted;
      weighted += (weight * sum.score) / points;
      all += weight;
    }
    if (hasAttendance) {
      weighted += attendance.weight * attendance.rate!;
      all += attendance.weight;
    }
    return all === 0 ? null : (100 * weighted) / all;
  };
  return {
    on_graded_work: mean(({ graded }) => graded),
    of_whole_course: mean(({ all }) => all),
    if_missing_scores_0: mean(({ graded, overdue }) => graded + overdue),
  };
}

/** Why the three differ, in one sentence. */
export function sayMeans(
  means: Means,
  { graded, overdue, toCome }: { graded: number; overdue: number; toCome: number },
): string {
  if (means.on_graded_work === null) {
    return overdue > 0 ? `Nothing is graded yet; ${overdue} overdue count 0 in the second.` : 'Nothing is graded yet.';
  }
  const parts = [
    `The first is the mean of ${sayCount(graded, 'graded assignment')}`,
    overdue > 0 ? `the second counts ${overdue} overdue as 0` : 'nothing is overdue, so the second is the same',
    toCome > 0 ? `the third counts all that is not earned yet as 0, ${toCome} more` : 'nothing is still to come',
  ];
  return `${parts.join('; ')}.`;
}
