/**
 * How a session went for one learner: one rule, whoever asks. The view `session_outcome` says the same in SQL, and a property
 * test holds the two together.
 */
import type { Mark } from './attendance';
import { suggestMark, type Thresholds } from './suggest';
import type { Presence } from './presence';

/** Minutes after the start until which a check-in is in time, where a course says nothing else. */
export const LATE_AFTER = 10;

/** What is known of one learner in one session that was held, at whose start they were enrolled. */
export interface OutcomeFacts {
  startsAt: number;
  endsAt: number;
  /** Has the roll been closed? Then marks alone count. */
  isClosed: boolean;
  /** The code of their mark; null for none. */
  mark: string | null;
  /** Was the mark given by their own check-in? Then it waits for the roll. */
  isByCheckIn: boolean;
  /** When they checked in; null for whoever did not. */
  checkedInAt: number | null;
  presence: Pick<Presence, 'ms' | 'firstIn' | 'lastOut'> | null;
  /** Is anything of the session's presence known? Then whoever was not seen is suggested absent. */
  hasPresence: boolean;
  /** Are there names in it that nobody is known for? Whoever was not seen may be among them. */
  hasUnnamed: boolean;
}

export interface SessionRule extends Thresholds {
  /** Minutes after the start until which a check-in is in time. */
  lateAfter: number;
}

/** What a session comes to for somebody. */
export interface Outcome {
  /** The mark that it is, or would be. */
  mark: string;
  credit: number;
  /** Whether it counts at all. */
  counts: boolean;
  /** Is it other than a mark that was given? */
  isProvisional: boolean;
}

/**
 * The mark, if there is one; else, while the roll is not closed, provisionally a check-in (present or late by its instant),
 * else what their presence suggests; else none.
 *
 * @param marks by their codes
 * @example outcomeOf({ ...facts, mark: null, isClosed: false, checkedInAt: start }, rule, marks) // present, provisionally
 */
export function outcomeOf(facts: OutcomeFacts, rule: SessionRule, marks: ReadonlyMap<string, Mark>): Outcome | null {
  const { mark, isClosed, checkedInAt, startsAt } = facts;
  const as = (code: string, isProvisional: boolean): Outcome | null => {
    const found = marks.get(code);
    return found ? { mark: code, credit: found.credit, counts: found.counts, isProvisional } : null;
  };
  if (mark !== null) return as(mark, facts.isByCheckIn && !isClosed);
  if (isClosed) return null;
  if (checkedInAt !== null) return as(checkedInAt <= startsAt + rule.lateAfter * 60_000 ? 'present' : 'late', true);
  const suggested = suggestedBy(facts, rule);
  return suggested === null ? null : as(suggested, true);
}

/** The code that presence suggests; null where nothing of it is known, or they may be among those without a name. */
function suggestedBy(facts: OutcomeFacts, rule: SessionRule): string | null {
  const { presence, hasPresence, hasUnnamed, startsAt, endsAt } = facts;
  if (!hasPresence || (presence === null && hasUnnamed)) return null;
  const length = Math.max(1, endsAt - startsAt);
  const stay = presence && {
    ...presence,
    share: presence.ms / length,
    reconnects: 0,
    longestGapMs: 0,
    intervals: [],
    isOpen: false,
  };
  return suggestMark(stay, { start: startsAt, end: endsAt }, 'UTC', rule).mark;
}

/** Were they there? Null where that is not known, or does not count. */
export function wasThere(outcome: Outcome | null): boolean | null {
  return outcome === null || !outcome.counts ? null : outcome.credit > 0;
}
