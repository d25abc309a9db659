/** Attempts at an item, and which of them counts. */

/** One attempt. Instants are epoch ms. */
export interface Attempt {
  number: number;
  started_at: number | null;
  submitted_at: number | null;
  score: number | null;
  /** Points that were to be had; null where the result did not say. */
  points: number | null;
  /** From when the score or the feedback was known. */
  graded_at: number | null;
  /** Has it been answered in words? */
  has_feedback: boolean;
  /** When it was dismissed: it counts for nothing. */
  dismissed_at: number | null;
  /** Does the log alone tell of it? */
  isLogged?: boolean;
}

/**
 * A hand-in of an item of which results tell nothing: the log's word *submitted* stands for it. One meaning of *handed in*
 * for everything: results first, and the log where they tell nothing of the item.
 */
function loggedHandIn(at: number): Attempt {
  return {
    number: 1,
    started_at: null,
    submitted_at: at,
    score: null,
    points: null,
    graded_at: null,
    has_feedback: false,
    dismissed_at: null,
    isLogged: true,
  };
}

/**
 * Somebody's attempts at an item with what the log alone tells of its hand-in: the score that a gradebook gives is of that.
 *
 * @param attempts at an item of which no results tell: a gradebook's, or none
 */
export function withLoggedHandIn(attempts: readonly Attempt[], at: number): Attempt[] {
  if (attempts.length === 0) return [loggedHandIn(at)];
  return attempts.map((attempt) => (attempt.submitted_at === null ? { ...attempt, submitted_at: at } : attempt));
}

/** Which attempt counts. */
export const ATTEMPT_POLICIES = ['best', 'last', 'first', 'mean'] as const;
export type AttemptPolicy = (typeof ATTEMPT_POLICIES)[number];

export const POLICY_WORDS: Record<AttemptPolicy, string> = {
  best: 'the best attempt',
  last: 'the last attempt',
  first: 'the first attempt',
  mean: 'the mean of all attempts',
};

/** What was known of an attempt at an instant; null for one that had not begun. */
export function attemptAsOf(attempt: Attempt, at: number): Attempt | null {
  const { started_at, submitted_at, graded_at, dismissed_at } = attempt;
  const known = [started_at, submitted_at, graded_at].filter((one) => one !== null);
  if (known.length > 0 && Math.min(...known) > at) return null;
  const isGraded = graded_at === null || graded_at <= at;
  return {
    ...attempt,
    submitted_at: submitted_at !== null && submitted_at > at ? null : submitted_at,
    score: isGraded ? attempt.score : null,
    graded_at: isGraded ? graded_at : null,
    has_feedback: isGraded && attempt.has_feedback,
    dismissed_at: dismissed_at !== null && dismissed_at > at ? null : dismissed_at,
  };
}

/** What counts of somebody's work on an item. */
export interface Counting {
  /** As it was given, of `points`. */
  score: number;
  points: number;
  /** The score as a share of the points, 0 or more; above 1 where it was above the maximum. */
  share: number;
  /** The last instant that it rests on; null where nobody said when it was graded. */
  at: number | null;
}

/** Attempts that have a score that can be held against points. */
function scored(attempts: readonly Attempt[], itemPoints: number | null): (Counting & { number: number })[] {
  const all: (Counting & { number: number })[] = [];
  for (const { number, score, points: own, dismissed_at, graded_at, submitted_at } of attempts) {
    const points = own ?? itemPoints;
    if (dismissed_at !== null || score === null || points === null || points <= 0) continue;
    all.push({ number, score, points, share: score / points, at: graded_at ?? submitted_at });
  }
  return all;
}

const latest = (times: readonly (number | null)[]) =>
  times.reduce<number | null>((last, at) => (at === null ? last : Math.max(last ?? at, at)), null);

/**
 * The attempt that counts, by the item's policy. Dismissed ones and those without a score are passed over; of two that
 * are alike the earlier counts. Null where there is nothing to count.
 *
 * @param itemPoints the item's own, for results that do not name them
 */
export function countingAttempt(
  attempts: readonly Attempt[],
  itemPoints: number | null,
  policy: AttemptPolicy = 'best',
): Counting | null {
  if (attempts.length === 0) return null;
  const all = scored(attempts, itemPoints);
  // Nearly everybody has one: whichever counts is that.
  if (all.length < 2) return all[0] ?? null;
  all.sort((a, b) => a.number - b.number);
  switch (policy) {
    case 'best':
      return all.reduce((best, one) => (one.share > best.share ? one : best));
    case 'first':
      return all[0];
    case 'last':
      return all[all.length - 1];
    case 'mean': {
      const share = all.reduce((sum, one) => sum + one.share, 0) / all.length;
      const points = itemPoints ?? all[0].points;
      return { score: share * points, points, share, at: latest(all.map(({ at }) => at)) };
    }
  }
}

/** Each scored attempt's share of the points, in the order of the attempts. */
export function sharesOf(attempts: readonly Attempt[], itemPoints: number | null): number[] {
  return scored(attempts, itemPoints)
    .sort((a, b) => a.number - b.number)
    .map(({ share }) => share);
}

/** The first hand-in of those that were not dismissed; null before any. */
export function firstHandIn(attempts: readonly Attempt[]): number | null {
  let first: number | null = null;
  for (const { submitted_at, dismissed_at } of attempts)
    if (submitted_at !== null && dismissed_at === null && (first === null || submitted_at < first))
      first = submitted_at;
  return first;
}

/** Since when somebody waits for an answer: the newest hand-in, where it has neither grade nor feedback. */
export function waitsSince(attempts: readonly Attempt[]): number | null {
  let newest: Attempt | null = null;
  for (const one of attempts) {
    // Where results tell nothing of an item, nobody's grading is told either.
    if (one.submitted_at === null || one.dismissed_at !== null || one.isLogged) continue;
    if (
      newest === null ||
      one.submitted_at > newest.submitted_at! ||
      (one.submitted_at === newest.submitted_at && one.number > newest.number)
    )
      newest = one;
  }
  return newest !== null && newest.score === null && !newest.has_feedback ? newest.submitted_at : null;
}
