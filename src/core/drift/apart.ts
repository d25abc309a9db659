/** What sets one person apart from the others of a list: what nearly everybody has tells nobody from anybody. */

/** A reason that somebody is on a list for. */
export interface ReasonOnList {
  factor: string;
  points: number;
}

/** A list shorter than this has nothing in common that would mean anything. */
const ENOUGH_PEOPLE = 5;
/** The share of the people from which on a reason is one that nearly everybody has. */
const NEARLY_EVERYBODY = 0.75;

/**
 * The share of some people who have each reason.
 *
 * @param people each one's reasons; those without points are none
 * @example sharesOf([[{ factor: 'quiet', points: 9 }], []]).get('quiet') // 0.5
 */
export function sharesOf(people: readonly (readonly ReasonOnList[])[]): ReadonlyMap<string, number> {
  const counts = new Map<string, number>();
  for (const reasons of people) {
    for (const factor of new Set(reasons.filter(({ points }) => points > 0).map((reason) => reason.factor)))
      counts.set(factor, (counts.get(factor) ?? 0) + 1);
  }
  return new Map([...counts].map(([factor, count]) => [factor, count / people.length]));
}

/** The reasons that nearly everybody on a list has, the most common first; none of a short list. */
export function commonReasons(people: readonly (readonly ReasonOnList[])[]): string[] {
  if (people.length < ENOUGH_PEOPLE) return [];
  return [...sharesOf(people)]
    .filter(([, share]) => share >= NEARLY_EVERYBODY)
    .sort(([, a], [, b]) => b - a)
    .map(([factor]) => factor);
}

/**
 * Somebody's reasons with what sets them apart first: those that nearly everybody has come last, and each of the two by
 * points.
 *
 * @example inOrderApart([{ factor: 'missing', points: 20 }, { factor: 'quiet', points: 9 }], ['missing'])[0].factor // 'quiet'
 */
export function inOrderApart<R extends ReasonOnList>(reasons: readonly R[], common: readonly string[]): R[] {
  const isCommon = ({ factor }: R) => Number(common.includes(factor));
  return reasons.toSorted((a, b) => isCommon(a) - isCommon(b) || b.points - a.points);
}
