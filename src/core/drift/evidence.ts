/**
 * Kinds of evidence, and whether a course tells of them. Where nobody's hand-ins are ever told, nobody can be held to have
 * handed in nothing: what never came, or has stopped, judges nobody.
 */
import { quantile } from '../statistics/quantile';
import { countedDays, type DayRange } from './counted-days';

/**
 * Everything there can be evidence of: any access, deeds of working or talking, shares watched, hand-ins, grades, sessions
 * (a roll, presence or a check-in), and items that somebody marked as done.
 */
const EVIDENCE_KINDS = ['opens', 'worked', 'talked', 'watched', 'hand_ins', 'grades', 'sessions', 'by_hand'] as const;
export type EvidenceKind = (typeof EVIDENCE_KINDS)[number];

/** What a course tells of one kind. */
export interface ToldDays {
  /** Days on which anything of it was told of anybody, ascending. */
  days: readonly number[];
  /** Days on which something of it fell due; left out for a kind that never does. */
  dues?: readonly number[];
}

/** What a course tells of, by kind; a kind that is left out was never told. */
export type Evidence = Partial<Record<EvidenceKind, ToldDays>>;

/** Counted days without anything after which a kind may have stopped, at the least. */
const STOPPED_AFTER = 14;
/** Or so many times its usual pause. */
const PAUSES = 4;

/** The usual pause between days on which something was told: the third quartile, in counted days; 1 where none is known. */
function usualPause(days: readonly number[], count: number, skipped: readonly DayRange[]): number {
  const pauses: number[] = [];
  for (let i = 1; i < count; i += 1) pauses.push(countedDays(days[i - 1], days[i], skipped));
  return Math.max(1, quantile(pauses, 0.75) ?? 1);
}

/** Whether a kind is told by the end of a day: never yet, now, or no longer. */
export type Telling = 'never' | 'told' | 'stopped';

/**
 * Is a kind of evidence told of anybody in the course? From the first day on which something of it was, until it has told
 * nothing for the longer of 14 counted days and four times its usual pause while something of it fell due.
 *
 * @param told what is known of the kind; nothing later than `day` is looked at
 * @param skipped breaks and gaps of the log, disjoint and in order
 * @example tellingOn({ days: [3, 10], dues: [12] }, 40, []) // 'stopped': 30 days, usually every 7
 */
export function tellingOn(told: ToldDays | undefined, day: number, skipped: readonly DayRange[]): Telling {
  const days = told?.days ?? [];
  let count = 0;
  while (count < days.length && days[count] <= day) count += 1;
  if (count === 0) return 'never';
  const last = days[count - 1];
  const silence = countedDays(last, day, skipped);
  if (silence <= STOPPED_AFTER || !told?.dues?.some((due) => due > last && due <= day)) return 'told';
  return silence > PAUSES * usualPause(days, count, skipped) ? 'stopped' : 'told';
}

/** The kinds that are not told by the end of a day. */
export function untoldOn(evidence: Evidence, day: number, skipped: readonly DayRange[]): ReadonlySet<EvidenceKind> {
  return new Set(EVIDENCE_KINDS.filter((kind) => tellingOn(evidence[kind], day, skipped) !== 'told'));
}

/** The last day up to `day` on which something of a kind was told; null for none. */
export function lastTold(told: ToldDays | undefined, day: number): number | null {
  return told?.days.findLast((one) => one <= day) ?? null;
}

/** What a kind is called where it is said that nobody has any. */
export const EVIDENCE_WORDS: Readonly<Record<EvidenceKind, string>> = {
  opens: 'visits',
  worked: 'deeds of work',
  talked: 'posts or messages',
  watched: 'shares watched',
  hand_ins: 'hand-ins',
  grades: 'grades',
  sessions: 'sessions',
  by_hand: 'items marked by hand',
};
