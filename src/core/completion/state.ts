/** Where somebody stands with one item: done, begun or not, and what is left. */
import { DAY, MINUTE } from '../time/zone';
import { sayCount } from '../time/words';
import { attemptAsOf, countingAttempt, firstHandIn, type Attempt, type AttemptPolicy } from '../work/attempt';
import type { Condition } from './rule';

export const ITEM_STATES = ['not_started', 'started', 'done', 'exempt'] as const;
export type ItemState = (typeof ITEM_STATES)[number];

export const STATE_WORDS: Record<ItemState, string> = {
  not_started: 'not started',
  started: 'started',
  done: 'done',
  exempt: 'exempt',
};

/** What somebody did with an item on one day. */
export interface ItemDay {
  day: number;
  opens: number;
  /** Events of any kind. */
  events: number;
  talked: number;
  ms: number;
  /** First and last opening, epoch ms; null where there was none. */
  first: number | null;
  last: number | null;
  /** The last event of a day without an opening; null for any other. */
  otherLast?: number | null;
}

/** A override set by a person, which goes before the rule until it is cleared. */
export interface Override {
  state: 'done' | 'exempt';
  at: number;
  by: string | null;
  reason: string;
}

/** All that is known of somebody and an item. */
export interface ItemFacts {
  /** In time order. */
  days: readonly ItemDay[];
  attempts: readonly Attempt[];
  /** Share watched, 0–1, and when it was reached, in time order; null where the feed has no such thing for the item. */
  progress: readonly (readonly [at: number, share: number])[] | null;
  attendedAt: number | null;
  override: Override | null;
  /** From when they are excused. */
  excusedAt: number | null;
}

export const NOTHING_KNOWN: ItemFacts = {
  days: [],
  attempts: [],
  progress: null,
  attendedAt: null,
  override: null,
  excusedAt: null,
};

/** What the rule of an item needs to know of it. */
export interface RuledItem {
  rule: readonly Condition[];
  points: number | null;
  policy: AttemptPolicy;
}

export interface StateOfItem {
  state: ItemState;
  /** When it became done, epoch ms; null for any other state. */
  doneAt: number | null;
  /** Whether a person or the rule says so; null for what is neither done nor exempt. */
  by: 'rule' | 'hand' | null;
  /** A phrase for each condition that is open. */
  left: string[];
}

/** Facts as they were known at an instant. */
export function factsAsOf(facts: ItemFacts, at: number, day: number): ItemFacts {
  return {
    days: facts.days.filter((one) => one.day <= day),
    attempts: facts.attempts.flatMap((attempt) => attemptAsOf(attempt, at) ?? []),
    progress: facts.progress && facts.progress.filter(([known]) => known <= at),
    attendedAt: facts.attendedAt !== null && facts.attendedAt <= at ? facts.attendedAt : null,
    override: facts.override !== null && facts.override.at <= at ? facts.override : null,
    excusedAt: facts.excusedAt !== null && facts.excusedAt <= at ? facts.excusedAt : null,
  };
}

/** When a condition was met, or what is left of it. */
type Met = { at: number } | { left: string };

const round = (value: number) => Math.round(value * 10) / 10;

/** The day on which a sum over days reaches a number: its last event's instant. */
function reached(days: readonly ItemDay[], of: (day: ItemDay) => number, least: number): number | null {
  let sum = 0;
  for (const day of days) {
    sum += of(day);
    // A day of nothing but other events is dated by them: never by a day before it.
    if (sum >= least) return day.last ?? day.otherLast ?? day.first ?? day.day * DAY;
  }
  return null;
}

const total = (days: readonly ItemDay[], of: (day: ItemDay) => number) => days.reduce((sum, day) => sum + of(day), 0);

function meets(condition: Condition, item: RuledItem, facts: ItemFacts): Met {
  switch (condition.on) {
    case 'opened': {
      const first = facts.days.find(({ opens }) => opens > 0);
      return first ? { at: first.first ?? 0 } : { left: 'not opened' };
    }
    case 'minutes': {
      const at = reached(facts.days, ({ ms }) => ms, condition.least * MINUTE);
      if (at !== null) return { at };
      const spent = Math.floor((10 * total(facts.days, ({ ms }) => ms)) / MINUTE) / 10;
      return { left: `${spent} of ${condition.least} minutes` };
    }
    case 'talked': {
      const at = reached(facts.days, ({ talked }) => talked, condition.least);
      if (at !== null) return { at };
      const posts = total(facts.days, ({ talked }) => talked);
      return { left: condition.least === 1 ? 'nothing posted' : `${posts} of ${sayCount(condition.least, 'post')}` };
    }
    case 'watched': {
      if (facts.progress === null) return { left: 'share watched: not measurable' };
      const found = facts.progress.find(([, share]) => 100 * share >= condition.least);
      if (found) return { at: found[0] };
      const most = Math.max(0, ...facts.progress.map(([, share]) => share));
      return { left: `watched ${Math.floor(100 * most)} of ${condition.least} %` };
    }
    case 'handed_in': {
      const at = firstHandIn(facts.attempts);
      if (at !== null) return { at };
      return { left: facts.attempts.length === 0 ? 'not tried' : 'begun, not handed in' };
    }
    case 'score':
      return meetsScore(condition.least, item, facts.attempts);
    case 'attended':
      return facts.attendedAt === null ? { left: 'not attended' } : { at: facts.attendedAt };
    case 'by_hand':
      return { left: 'to be marked by somebody' };
  }
}

function meetsScore(least: number, { points, policy }: RuledItem, attempts: readonly Attempt[]): Met {
  const counting = countingAttempt(attempts, points, policy);
  if (counting === null) {
    if (attempts.length === 0) return { left: `not tried, ${least} % needed` };
    return { left: firstHandIn(attempts) === null ? `${least} % needed` : `not graded yet, ${least} % needed` };
  }
  if (100 * counting.share < least - 1e-9) return { left: `${round(100 * counting.share)} of ${least} %` };
  // With the best of several, it was met by the first that was good enough.
  const enough =
    policy === 'best'
      ? attempts
          .flatMap((attempt) => {
            const outOf = attempt.points ?? points;
            const isEnough =
              attempt.dismissed_at === null &&
              attempt.score !== null &&
              outOf &&
              (100 * attempt.score) / outOf >= least - 1e-9;
            return isEnough ? [attempt.graded_at ?? attempt.submitted_at ?? 0] : [];
          })
          .sort((a, b) => a - b)[0]
      : (counting.at ?? 0);
  return { at: enough };
}

/**
 * Where somebody stands with an item. A override set by hand goes before the rule; being excused makes exempt; of a rule all
 * conditions have to hold, and it is done from when the last of them did.
 */
export function stateOfItem(item: RuledItem, facts: ItemFacts): StateOfItem {
  const { override, excusedAt } = facts;
  if (override?.state === 'done') return { state: 'done', doneAt: override.at, by: 'hand', left: [] };
  if (override?.state === 'exempt' || excusedAt !== null)
    return { state: 'exempt', doneAt: null, by: 'hand', left: [] };
  const left: string[] = [];
  let doneAt = 0;
  for (const condition of item.rule) {
    const met = meets(condition, item, facts);
    if ('left' in met) left.push(met.left);
    else if (met.at > doneAt) doneAt = met.at;
  }
  if (left.length === 0) return { state: 'done', doneAt, by: 'rule', left };
  const isBegun =
    facts.attempts.length > 0 ||
    facts.attendedAt !== null ||
    facts.days.some(({ events }) => events > 0) ||
    (facts.progress?.length ?? 0) > 0;
  return { state: isBegun ? 'started' : 'not_started', doneAt: null, by: null, left };
}
