import { sayCount } from '../time/words';
import { countedDays } from './counted-days';
import { firstDay } from './first-day';
import { ramp } from './ramp';
import type { Said, Sentence } from './sentence';
import type { Factor } from './types';
import { isExcused, isHandedIn } from './work';

interface NoHandIn extends Sentence {
  days: number;
}

/**
 * No hand-in: `ramp(counted days since the last hand-in, 5, 16)`; of somebody who has handed in nothing yet, since there was
 * something to hand in and they were enrolled.
 */
export const noHandIn: Factor = {
  name: 'no_hand_in',
  title: 'No hand-in',
  notCounted: 'no hand-in (there was nothing to hand in so far)',
  weight: { early: 10, late: 10 },
  needs: ['work'],
  evidence: 'hand_ins',
  words: {
    no_hand_in: ({ days }: NoHandIn): Said => ({
      fact: days === 0 ? 'Handed something in today' : `Nothing handed in for ${sayCount(days, 'day')}`,
      more: [],
      short: days === 0 ? 'handed in today' : `no hand-in for ${sayCount(days, 'day')}`,
    }),
    never_handed_in: ({ days }: NoHandIn): Said => ({
      fact: 'Has handed in nothing yet',
      more: [`something to hand in for ${sayCount(days, 'day')}`],
      short: 'nothing handed in yet',
    }),
  },
  assess(facts) {
    const { day, skipped, work } = facts;
    const { dueItems, own, handedIn } = work;
    let last: number | null = null;
    for (let i = handedIn.length - 1; i >= 0 && last === null; i -= 1) {
      const mine = own[handedIn[i]];
      if (isHandedIn(mine, day) && !isExcused(mine, day)) last = mine.handedInDay;
    }
    let since: number | null = null;
    for (let place = 0; last === null && place < dueItems.length; place += 1) {
      const open = dueItems[place].opensDay ?? dueItems[place].dueDay;
      if (open !== null && open <= day && (since === null || open < since) && !isExcused(own[place], day)) since = open;
    }
    if (last === null && since === null) return null;
    const first = firstDay(facts);
    // Before a new enrolment there was nothing to hand in.
    const days = countedDays(Math.max(last ?? since!, first), day, skipped);
    return { value: ramp(days, 5, 16), says: { name: last === null ? 'never_handed_in' : 'no_hand_in', days } };
  },
};
