/** Filters of the list of learners, as somebody sends them to be kept: `{"quiet": 7}`, or as an address has them. */
import { listParams } from '../request/list';
import { LearnersQuery } from './learner-query';

/** Parameters that every call of a list may have, beside its filters. */
const OF_A_CALL = ['limit', 'cursor', 'format'];
const MOST = 40;

/** Is it a parameter of the list of learners? */
function isOfLearners(name: string): boolean {
  return OF_A_CALL.includes(name) || Object.hasOwn(listParams({ query: LearnersQuery }, { [name]: 'any' }), name);
}

/**
 * The filters that were sent, or what is wrong with them: `name` is the filter's, where it is one's.
 * @example readFilter({ quiet: 7 }) // { filter: { quiet: '7' } }
 */
export function readFilter(
  sent: unknown,
): { filter: Record<string, string> } | { fault: { name?: string; message: string } } {
  const pairs = typeof sent === 'string' ? [...new URLSearchParams(sent)] : Object.entries(Object(sent));
  const isPair = ([, value]: [string, unknown]) => ['string', 'number'].includes(typeof value);
  if (Array.isArray(sent) || !pairs.every(isPair) || pairs.length > MOST)
    return { fault: { message: 'is not an object such as {"quiet": 7}' } };
  // One that nobody knows would let everybody in.
  const unknown = pairs.map(([name]) => name).find((name) => !isOfLearners(name));
  if (unknown !== undefined)
    return { fault: { name: unknown.slice(0, 60), message: 'is no filter of the list of learners' } };
  return { filter: Object.fromEntries(pairs.map(([name, value]) => [name, String(value).slice(0, 500)])) };
}
