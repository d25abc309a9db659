import { countedBack, countedDays, isWithin, type DayRange } from './counted-days';
import { quantile } from '../statistics/quantile';
import { ramp } from './ramp';
import { firstDay } from './first-day';
import type { Said, Sentence } from './sentences';
import type { EnrolmentFacts, Factor } from './types';

/** Active days of the last so many, and as usual. */
interface Fading extends Sentence {
  active: number;
  of: number;
  usual: number;
}

/** Days compared, and how many such stretches before them make the learner's own habit: six weeks. */
const STRETCH = 14;
const STRETCHES = 3;
/** Counted days there must be to compare at all, and of a stretch that is not whole. */
const ENOUGH_HISTORY = 21;
const ENOUGH_OF_ONE = 7;
/** Somebody who was never there on two days a fortnight has no habit to fade from. */
const ENOUGH_HABIT = 2;

/** Active days after one day and up to another that are counted ones. */
function activeBetween(
  activeDays: readonly number[],
  after: number,
  upTo: number,
  skipped: readonly DayRange[],
): number {
  let count = 0;
  for (let i = activeDays.length - 1; i >= 0 && activeDays[i] > after; i -= 1) {
    if (activeDays[i] <= upTo && !isWithin(activeDays[i], skipped)) count += 1;
  }
  return count;
}

/**
 * The learner's own median active days in 14 counted ones, over the six weeks before a day. A
 * stretch cut short by the beginning counts from half of it on, scaled up. Null without any.
 */
function habit({ activeDays, skipped }: EnrolmentFacts, upTo: number, start: number): number | null {
  const before: number[] = [];
  let end = upTo;
  for (let i = 0; i < STRETCHES; i += 1) {
    // The first day itself belongs to the history.
    const from = Math.max(countedBack(end, STRETCH, skipped), start - 1);
    const days = countedDays(from, end, skipped);
    if (days < ENOUGH_OF_ONE) break;
    before.push((activeBetween(activeDays, from, end, skipped) * STRETCH) / days);
    end = from;
  }
  return quantile(before, 0.5);
}

const round = (value: number) => Math.round(value * 10) / 10;

/**
 * Fading against one's own habit: `ramp(1 − a/b, 0.3, 0.9)` with a the active days in the last
 * 14 counted days and b the learner's own median active days per 14 over the 6 weeks before.
 */
export const fading: Factor = {
  name: 'fading',
  title: 'Fading',
  notCounted: 'fading (too little history)',
  weight: { early: 10, late: 12 },
  needs: ['days'],
  words: {
    fading: ({ active, of, usual }: Fading): Said => ({
      fact: `On ${active} of the last ${of} days`,
      more: [`usually ${usual}`],
      short: `on ${active} of ${of} days, usually ${usual}`,
    }),
  },
  assess(facts) {
    const start = firstDay(facts);
    if (countedDays(start - 1, facts.day, facts.skipped) < ENOUGH_HISTORY) return null;
    const from = countedBack(facts.day, STRETCH, facts.skipped);
    const usual = habit(facts, from, start);
    if (usual === null || usual < ENOUGH_HABIT) return null;
    const now = activeBetween(facts.activeDays, from, facts.day, facts.skipped);
    return {
      value: ramp(1 - now / usual, 0.3, 0.9),
      says: { name: 'fading', active: now, of: STRETCH, usual: round(usual) },
    };
  },
};
