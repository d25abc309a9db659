/** Scores that a plain fact holds a learner at, whatever the factors say. */
import { sayCount } from '../time/words';
import { countedDays } from './counted-days';
import { firstDay } from './first-day';
import type { Said, Sentence } from './sentences';
import type { EnrolmentFacts } from './types';

interface FloorSentence extends Sentence {
  days: number;
  atLeast: number;
}

interface Floor {
  name: string;
  title: string;
  atLeast: number;
  /** From so many counted days on. */
  days: number;
  /** Whether it is about somebody who has been there, or never. */
  hasCome: boolean;
  words: Record<string, (sentence: FloorSentence) => Said>;
}

const told = (fact: (days: string) => string) => ({
  fact: ({ days, atLeast }: FloorSentence): Said => ({
    fact: fact(sayCount(days, 'day')),
    more: [`at least ${atLeast}`],
    short: fact(sayCount(days, 'day')).replace(/^[A-Z]/, (letter) => letter.toLowerCase()),
  }),
});

export const FLOORS: readonly Floor[] = [
  {
    name: 'never_accessed',
    title: 'Never accessed',
    atLeast: 70,
    days: 10,
    hasCome: false,
    words: { never_accessed: told((days) => `Never there in ${days}`).fact },
  },
  {
    name: 'long_quiet',
    title: 'Long quiet',
    atLeast: 65,
    days: 21,
    hasCome: true,
    words: { long_quiet: told((days) => `No access for ${days}`).fact },
  },
];

/** The floor that holds at a score, and the days that it is about; null where none lifts it. */
export function floorOver(facts: EnrolmentFacts, score: number): { floor: Floor; days: number } | null {
  const last = facts.activeDays.at(-1);
  const days = countedDays(last ?? firstDay(facts), facts.day, facts.skipped);
  const floor = FLOORS.find((one) => one.hasCome === (last !== undefined) && days >= one.days && score < one.atLeast);
  return floor ? { floor, days } : null;
}
