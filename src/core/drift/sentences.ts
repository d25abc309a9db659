/**
 * What a reason says, kept as numbers and the name of its sentence: readings store these, and they are put into
 * words when they are read, so that better words hold for every reading there is.
 */
import { sayCount } from '../time/words';

export type Sentence =
  | { name: 'never_opened'; days: number; since: 'enrolled' | 'course began' }
  /** `counted` of the days are neither a break nor a gap in the log. */
  | { name: 'quiet'; days: number; counted: number; usual: number }
  | { name: 'fading'; active: number; of: number; usual: number }
  | { name: 'silent'; efforts: number; of: number; usual: number }
  | { name: 'never_accessed'; days: number; atLeast: number }
  | { name: 'long_quiet'; days: number; atLeast: number }
  /** Words of a reading from before sentences were kept as numbers. */
  | { name: 'kept'; text: string };

/** A sentence in words: the fact that matters first, what explains it, and both as a short phrase. */
export interface Said {
  fact: string;
  more: string[];
  short: string;
}

function sayUsual(gap: number): string {
  const days = Math.max(1, Math.round(gap));
  return days === 1 ? 'usually daily' : `usually every ${sayCount(days, 'day')}`;
}

const WORDS: { [Name in Sentence['name']]: (sentence: Extract<Sentence, { name: Name }>) => Said } = {
  never_opened: ({ days, since }) => ({
    fact: 'Never opened it',
    more: [`${since} ${sayCount(days, 'day')} ago`],
    short: 'never opened it',
  }),
  quiet: ({ days, counted, usual }) => ({
    fact: days === 0 ? 'Here today' : `Quiet ${sayCount(days, 'day')}`,
    // Breaks and log gaps are left out: then both figures are said.
    more: [sayUsual(usual), ...(counted < days ? [`${counted} of them count`] : [])],
    short: days === 0 ? 'here today' : `quiet ${sayCount(days, 'day')}`,
  }),
  fading: ({ active, of, usual }) => ({
    fact: `On ${active} of the last ${of} days`,
    more: [`usually ${usual}`],
    short: `on ${active} of ${of} days, usually ${usual}`,
  }),
  silent: ({ efforts, of, usual }) => ({
    fact: `Worked or talked ${efforts === 0 ? 'not once' : sayCount(efforts, 'time')} in ${of} days`,
    more: [`half of the group ${sayCount(usual, 'time')} or more`],
    short: efforts === 0 ? 'no work or talk' : `worked or talked ${sayCount(efforts, 'time')}`,
  }),
  never_accessed: ({ days, atLeast }) => ({
    fact: `Never there in ${sayCount(days, 'day')}`,
    more: [`at least ${atLeast}`],
    short: `never there in ${sayCount(days, 'day')}`,
  }),
  long_quiet: ({ days, atLeast }) => ({
    fact: `No access for ${sayCount(days, 'day')}`,
    more: [`at least ${atLeast}`],
    short: `no access for ${sayCount(days, 'day')}`,
  }),
  kept: ({ text }) => ({ fact: text, more: [], short: text }),
};

/**
 * A sentence in words.
 *
 * @example say({ name: 'quiet', days: 9, counted: 9, usual: 2 })
 * // { fact: 'Quiet 9 days', more: ['usually every 2 days'], short: 'quiet 9 days' }
 */
export function say(sentence: Sentence): Said {
  return (WORDS[sentence.name] as (sentence: Sentence) => Said)(sentence);
}

/** The whole of it on one line: "Quiet 9 days · usually every 2 days". */
export function sayWhole(sentence: Sentence): string {
  const { fact, more } = say(sentence);
  return [fact, ...more].join(' · ');
}

/**
 * Reasons on two lines: the strongest whole, what the others add in short. What a stronger one has said already
 * (whoever never opened it has not worked either) is not said again.
 */
export function sayBriefly(sentences: readonly Sentence[]): { fact: string; more: string; others: string } {
  const [first, ...rest] = sentences;
  if (!first) return { fact: '', more: '', others: '' };
  const { fact, more } = say(first);
  const isNever = sentences.some(({ name }) => name === 'never_opened' || name === 'never_accessed');
  const adds = rest.filter(
    ({ name }) => !(isNever || name === 'long_quiet' || (name === 'quiet' && first.name === 'long_quiet')),
  );
  return { fact, more: more.join(' · '), others: adds.map((sentence) => say(sentence).short).join(', ') };
}
