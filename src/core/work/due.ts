/** Work due: where somebody stands with one assignment. */
import type { ItemKind } from '../courses/item-kinds';
import { DAY } from '../time/zone';
import { firstHandIn, type Attempt } from './attempt';

/** In the order in which the first that holds is the state. */
export const DUE_STATES = [
  'exempt',
  'graded',
  'handed_in',
  'handed_in_late',
  'started_not_handed_in',
  'overdue',
  'due_soon',
  'not_due',
] as const;
export type DueState = (typeof DUE_STATES)[number];

export const DUE_WORDS: Record<DueState, string> = {
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
 * Is an item an assignment, something that is handed in? Quizzes and assignments are, and whatever has points: a page to
 * read by a date is not overdue, it is behind plan.
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
export interface DueFacts {
  attempts: readonly Attempt[];
  /** An extension's date where there is one, else the item's own. */
  dueAt: number;
  isExempt: boolean;
  now: number;
}

/** Where somebody stands with an assignment that has a due date: the first state that holds. */
export function dueStateOf({ attempts, dueAt, isExempt, now }: DueFacts): DueState {
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

/** Is it overdue: past its date and nothing handed in? */
export function isOverdue(state: DueState, dueAt: number, now: number): boolean {
  return state === 'overdue' || (state === 'started_not_handed_in' && dueAt < now);
}

/**
 * Whole days that an item is late: up to its first hand-in, or to now where there is none. 0 for what is not past its
 * date, or was handed in by then.
 */
export function daysLate(dueAt: number, handedInAt: number | null, now: number): number {
  return Math.max(0, Math.floor(((handedInAt ?? now) - dueAt) / DAY));
}
