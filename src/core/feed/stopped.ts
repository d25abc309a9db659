/** A log that has stopped: a source that has sent nothing for longer than it usually pauses. */
import type { DayRange } from '../drift/counted-days';

/** A pause as long as nine in ten is still usual: a source that rests at weekends has stopped on Tuesday, not on Sunday. */
const USUAL = 0.9;
/** Days back whose pauses tell what is usual. */
const LOOK_BACK = 42;
/** Days that have to be known before they tell it, a second weekend among them, and what is taken for usual until then. */
const ENOUGH_DAYS = 14;
const UNKNOWN_PAUSE = 7;

/** A silence: its days, both included; `isOver` once something came after it. */
export interface Silence {
  days: DayRange;
  isOver: boolean;
}

/**
 * Runs of days on which a source sent nothing, longer than it usually paused until then. Today is not over, so that nothing
 * has come on it says nothing; a run that goes on ends with it.
 *
 * @param activeDays days on which the source sent anything, ascending
 * @example silences([1, 2, 3, 4, 5, 6], 8) // [{ days: [7, 8], isOver: false }]: every day so far, and nothing on the 7th
 */
export function silences(activeDays: readonly number[], today: number): Silence[] {
  const found: Silence[] = [];
  const pauses: { at: number; length: number }[] = [];
  const usualAt = (day: number): number => {
    const known = pauses.filter(({ at }) => at > day - LOOK_BACK).map(({ length }) => length);
    if (day - activeDays[0] < ENOUGH_DAYS) return UNKNOWN_PAUSE;
    // The nearest rank: halfway between a night and a weekend nobody rests.
    return [...known].sort((a, b) => a - b)[Math.ceil(USUAL * known.length) - 1] ?? UNKNOWN_PAUSE;
  };
  for (const [index, day] of activeDays.entries()) {
    const next = activeDays[index + 1] ?? today;
    const length = next - day;
    if (length > 1 && length > usualAt(day)) {
      const isOver = index + 1 < activeDays.length;
      found.push({ days: [day + 1, isOver ? next - 1 : today], isOver });
    }
    if (index + 1 < activeDays.length) pauses.push({ at: day, length });
  }
  return found;
}

/** Events a day of a source and of those beside it, while it sent and since it fell silent. */
export interface Rates {
  own: number;
  othersBefore: number;
  othersSince: number;
}

/** Under this share of what its courses get, a source is not what tells of them. */
const MAIN_SHARE = 0.5;

/**
 * Do the courses that a silent source feeds go dark with it? Not where it told the smaller part of them, and not where another
 * source has taken its place: a file under another name.
 */
export function isMissed({ own, othersBefore, othersSince }: Rates): boolean {
  const isMain = own >= MAIN_SHARE * (own + othersBefore);
  return isMain && othersSince - othersBefore < MAIN_SHARE * own;
}
