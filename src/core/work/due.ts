/** Work owed: where somebody stands with one piece of work. */
import type { ItemKind } from '../courses/item-kinds';
import { DAY } from '../time/zone';
import { firstHandIn, type Attempt } from './attempt';

/** In the order in which the first that holds is the state. */
export const OWED_STATES = [
  'exempt',
  'graded',
  'handed_in',
  'handed_in_late',
  'started_not_handed_in',
  'overdue',
  'due_soon',
  'not_due',
] as const;
export type OwedState = (typeof OWED_STATES)[number];

export const OWED_WORDS: Record<OwedState, string> = {
  exempt: 'exempt',
  graded: 'graded',
  handed_in: 'handed in',
  handed_in_late: 'handed in late',
  started_not_handed_in: 'begun, not handed in',
  overdue: 'overdue',
  due_soon: 'due soon',
  not_due: 'not due yet',
};

/** Due within so many days is due soon. */
const SOON = 3 * DAY;

/**
 * Is an item a piece of work, something that is handed in? Quizzes and assignments are, and whatever has points: a page to
 * read by a date is not owed, it is behind plan.
 */
export function isWork(kind: ItemKind, points: number | null): boolean {
  return kind === 'quiz' || kind === 'assignment' || (points !== null && points > 0);
}

/** When an item falls due for somebody: by their extension, else by its own date; null for never. */
export function dueOf(
  { id, dueAt }: { id: number; dueAt: number | null },
  extensions: ReadonlyMap<number, { dueAt: number | null }>,
): number | null {
  return extensions.get(id)?.dueAt ?? dueAt;
}

/** What a state hangs on. */
export interface OwedFacts {
  attempts: readonly Attempt[];
  /** An extension's date where there is one, else the item's own. */
  dueAt: number;
  isExempt: boolean;
  now: number;
}

/** Where somebody stands with a piece of work that has a due date: the first state that holds. */
export function owedState({ attempts, dueAt, isExempt, now }: OwedFacts): OwedState {
  if (isExempt) return 'exempt';
  let isBegun = false;
  for (const { dismissed_at, score } of attempts) {
    if (dismissed_at !== null) continue;
    if (score !== null) return 'graded';
    isBegun = true;
  }
  const handedIn = firstHandIn(attempts);
  if (handedIn !== null) return handedIn <= dueAt ? 'handed_in' : 'handed_in_late';
  if (isBegun) return 'started_not_handed_in';
  if (dueAt < now) return 'overdue';
  return dueAt <= now + SOON ? 'due_soon' : 'not_due';
}

/** Is it owed now: past its date and nothing handed in? */
export function isOwed(state: OwedState, dueAt: number, now: number): boolean {
  return state === 'overdue' || (state === 'started_not_handed_in' && dueAt < now);
}

/**
 * Whole days that a piece is late: up to its first hand-in, or to now where there is none. 0 for what is not past its
 * date, or was handed in by then.
 */
export function daysLate(dueAt: number, handedInAt: number | null, now: number): number {
  return Math.max(0, Math.floor(((handedInAt ?? now) - dueAt) / DAY));
}
