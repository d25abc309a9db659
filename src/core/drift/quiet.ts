import { sayCount } from '../time/words';
import { countedDays } from './counted-days';
import { expectedGap, groupGap, ownGaps } from './expected-gap';
import { ramp } from './ramp';
import type { Said, Sentence } from './sentence';
import type { Assessment, Factor } from './types';

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
 * Quiet against one's own habit: `ramp(d/g, 1.5, 4)` with d the counted days since last access and g the expected gap.
 * Whoever never came stands on a list of their own.
 */
export const quiet: Factor<number | null> = {
  name: 'quiet',
  title: 'Quiet',
  notCounted: 'quiet (never there)',
  weight: { early: 5, late: 5 },
  needs: ['days'],
  evidence: 'opens',
  words: {
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
    const last = facts.activeDays.at(-1);
    if (last === undefined) return null;
    const quietDays = countedDays(last, facts.day, facts.skipped);
    const gap = expectedGap(ownGaps(facts.activeDays, facts.skipped), usualOfGroup);
    return {
      value: ramp(quietDays / gap, 1.5, 4),
      says: { name: 'quiet', days: facts.day - last, counted: quietDays, usual: round(gap) },
    };
  },
};
