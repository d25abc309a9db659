import { sayCount } from '../time/words';
import { countedDays } from './counted-days';
import { expectedGap, groupGap, ownGaps } from './expected-gap';
import { firstDay } from './first-day';
import { ramp } from './ramp';
import type { Said, Sentence } from './sentences';
import type { Assessment, Factor } from './types';

interface NeverOpened extends Sentence {
  days: number;
  since: 'enrolled' | 'course began';
}

interface Quiet extends Sentence {
  days: number;
  /** Those of the days that are neither a break nor a gap in the log. */
  counted: number;
  /** Days between visits, as usual. */
  usual: number;
}

const round = (value: number) => Math.round(value * 10) / 10;

function sayUsual(gap: number): string {
  const days = Math.max(1, Math.round(gap));
  return days === 1 ? 'usually daily' : `usually every ${sayCount(days, 'day')}`;
}

/**
 * Quiet against one's own habit: `ramp(d/g, 1.5, 5)` with d the counted days since last
 * access and g the expected gap; never accessed: `ramp(counted days since the start, 2, 10)`.
 */
export const quiet: Factor<number | null> = {
  name: 'quiet',
  title: 'Quiet',
  notCounted: 'quiet (too early to tell)',
  weight: { early: 30, late: 20 },
  needs: ['days'],
  words: {
    never_opened: ({ days, since }: NeverOpened): Said => ({
      fact: 'Never opened it',
      more: [`${since} ${sayCount(days, 'day')} ago`],
      short: 'never opened it',
    }),
    quiet: ({ days, counted, usual }: Quiet): Said => ({
      fact: days === 0 ? 'Here today' : `Quiet ${sayCount(days, 'day')}`,
      // Breaks and log gaps are left out: then both figures are said.
      more: [sayUsual(usual), ...(counted < days ? [`${counted} of them count`] : [])],
      short: days === 0 ? 'here today' : `quiet ${sayCount(days, 'day')}`,
    }),
  },
  /** The group's gap: the median of its learners' 75th percentiles. */
  ofGroup: (members) => groupGap(members.map(({ activeDays, skipped }) => ownGaps(activeDays, skipped))),
  assess(facts, usualOfGroup): Assessment | null {
    const start = firstDay(facts);
    if (facts.day - start < 2) return null;
    const last = facts.activeDays.at(-1);
    if (last === undefined) {
      const since = start === facts.enrolledDay ? 'enrolled' : 'course began';
      return {
        value: ramp(countedDays(start, facts.day, facts.skipped), 2, 10),
        says: { name: 'never_opened', days: facts.day - start, since },
      };
    }
    const quietDays = countedDays(last, facts.day, facts.skipped);
    const gap = expectedGap(ownGaps(facts.activeDays, facts.skipped), usualOfGroup);
    return {
      value: ramp(quietDays / gap, 1.5, 5),
      says: { name: 'quiet', days: facts.day - last, counted: quietDays, usual: round(gap) },
    };
  },
};
