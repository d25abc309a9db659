/** The Watch's parts and its order: whom one turns to now, and who stands on a list of their own. */
import type { Band } from './bands';

export const PARTS = ['now', 'contacted', 'away', 'never'] as const;
export type Part = (typeof PARTS)[number];

export const PART_WORDS: Readonly<Record<Part, string>> = {
  now: 'now',
  contacted: 'contacted',
  away: 'away',
  never: 'never started',
};

/** In days, what puts somebody in a part. */
export interface PartRules {
  /** Counted days without access from which on somebody is away. */
  away: number;
  /** Counted days since they could have come, of somebody never there. */
  never: number;
  /** For how long somebody who was tried to reach gives up their place. */
  contacted: number;
}

export const DEFAULT_PART_RULES: PartRules = { away: 14, never: 7, contacted: 28 };

/** Days after somebody came back from which on they may be adrift again. */
const AGAIN_AFTER = 7;

/** The last time somebody tried to reach a learner, and what came of it since. */
export interface Tried {
  answered: boolean;
  /** Has the day come on which a follow-up says to look again? */
  isDue: boolean;
  /** The first day they were there after it; null while they were not. */
  backDay: number | null;
}

/** Where somebody stands on a day. */
export interface WatchFacts {
  band: Band | null;
  score: number | null;
  /** Counted days without access, in the course they were in last; null of whoever never was there, or has finished. */
  daysAway: number | null;
  /** Counted days since they could have come, where they never did. */
  never: number | null;
  /** Null where nobody has tried to reach them for as long as one waits. */
  tried: Tried | null;
}

/** Does one wait for what was tried to bear fruit? Until they answer, its day comes, or they are back and adrift again. */
function isWaitedFor({ tried, band }: WatchFacts, day: number): boolean {
  if (tried === null || tried.answered || tried.isDue) return false;
  return !(band === 2 && tried.backDay !== null && day - tried.backDay >= AGAIN_AFTER);
}

/**
 * The part of the Watch that somebody stands in on a day.
 *
 * @example partOf({ band: 2, score: 70, gone: 15, never: null, tried: null }, 100) // 'away'
 */
export function partOf(one: WatchFacts, day: number, rules: PartRules = DEFAULT_PART_RULES): Part {
  if (isWaitedFor(one, day)) return 'contacted';
  if (one.daysAway !== null) return one.daysAway >= rules.away ? 'away' : 'now';
  return one.never !== null && one.never >= rules.never ? 'never' : 'now';
}

type Needing = Pick<WatchFacts, 'band' | 'score' | 'daysAway' | 'never'>;

/** Days without access, whoever never came included; nothing of whoever has finished. */
const daysAbsent = ({ daysAway, never }: Needing) => daysAway ?? never ?? -1;

/**
 * Worse band first, no reading last, then by drift; where that is the same, or nobody can be read yet, whoever has not been
 * there for longest first.
 */
export function byNeed(a: Needing, b: Needing): number {
  return (b.band ?? -1) - (a.band ?? -1) || (b.score ?? -1) - (a.score ?? -1) || daysAbsent(b) - daysAbsent(a);
}

/** Order within a part: by need; of those who are gone, whoever has been gone longest first. */
export function byPart(part: Part): (a: WatchFacts, b: WatchFacts) => number {
  if (part === 'away') return (a, b) => b.daysAway! - a.daysAway! || byNeed(a, b);
  if (part === 'never') return (a, b) => b.never! - a.never! || byNeed(a, b);
  return byNeed;
}
