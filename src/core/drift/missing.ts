import { sayCount } from '../time/words';
import { countedBack } from './counted-days';
import { firstDay } from './first-day';
import { ramp } from './ramp';
import type { Said, Sentence } from './sentence';
import type { Factor } from './types';
import { cameTooLateFor, hasFallenDue, isExcused, isExtended, isHandedIn } from './work';

interface Missing extends Sentence {
  missing: number;
  of: number;
  /** Counted days looked back. */
  days: number;
}

/** Counted days looked back. */
const STRETCH = 21;

/**
 * Work that was due and did not come: `ramp(share of assignments due in the last 21 counted days not handed in, 0, 0.6)`. An assignment
 * without a due date counts at its planned date; extensions are honoured, and excused assignments and those that fell due before
 * somebody's seventh day in the course left out.
 */
export const missing: Factor = {
  name: 'missing',
  title: 'Missing work',
  notCounted: 'missing work (nothing was due in the last three weeks)',
  weight: { early: 20, late: 20 },
  needs: ['work'],
  evidence: 'hand_ins',
  words: {
    missing: ({ missing: count, of, days }: Missing): Said => ({
      fact:
        count === 0
          ? `Handed in all ${of === 1 ? 'that was due' : sayCount(of, 'assignment')}`
          : `${count} of ${sayCount(of, 'assignment')} not handed in`,
      more: [`due in the last ${days} days`],
      short: count === 0 ? 'nothing missing' : `${count} of ${of} not handed in`,
    }),
  },
  assess(facts) {
    const { day, skipped } = facts;
    const { dueItems, own } = facts.work;
    const [from, first] = [countedBack(day, STRETCH, skipped), firstDay(facts)];
    let [due, open] = [0, 0];
    for (let place = 0; place < dueItems.length; place += 1) {
      const mine = own[place];
      const dueDay = isExtended(mine, day) ? mine.dueDay : dueItems[place].dueDay;
      if (dueDay === null || dueDay <= from || cameTooLateFor(dueDay, first) || isExcused(mine, day)) continue;
      if (!hasFallenDue(dueItems[place], mine, facts)) continue;
      due += 1;
      if (!isHandedIn(mine, day)) open += 1;
    }
    if (due === 0) return null;
    return { value: ramp(open / due, 0, 0.6), says: { name: 'missing', missing: open, of: due, days: STRETCH } };
  },
};
