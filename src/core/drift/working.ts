import { sayCount } from '../time/words';
import { besideGroup } from './participation';

/** Working beside one's group: worked and talked events over 14 counted days. */
export const working = besideGroup({
  name: 'working',
  title: 'Working',
  notCounted: 'working (too little is done in the group)',
  evidence: 'worked',
  stretch: 14,
  enoughOfGroup: 3,
  counted: (worked, talked) => worked + talked,
  told: ({ own, of, usual }) => ({
    fact: `Worked or talked ${own === 0 ? 'not once' : sayCount(own, 'time')} in ${of} days`,
    more: [`half of the group ${sayCount(usual, 'time')} or more`],
    short: own === 0 ? 'no work or talk' : `worked or talked ${sayCount(own, 'time')}`,
  }),
});
