import { sayCount } from '../time/words';
import { besideGroup } from './participation';

/** Talking beside one's group: talked events over 28 counted days. */
export const talking = besideGroup({
  name: 'talking',
  title: 'Talking',
  notCounted: 'talking (too little talk in the group)',
  evidence: 'talked',
  stretch: 28,
  enoughOfGroup: 2,
  counted: (_worked, talked) => talked,
  told: ({ own, of, usual }) => ({
    fact: own === 0 ? `Not a word in ${of} days` : `Wrote ${sayCount(own, 'time')} in ${of} days`,
    more: [`half of the group ${sayCount(usual, 'time')} or more`],
    short: own === 0 ? 'not a word' : `wrote ${sayCount(own, 'time')}`,
  }),
});
