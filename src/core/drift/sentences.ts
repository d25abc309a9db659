/**
 * What a reason says, kept as numbers and the name of its sentence: readings store these, and they are put into
 * words when they are read, so that better words hold for every reading there is.
 */
import { FLOORS } from './floors';
import { FACTORS } from './model';

/** The name of a sentence and its numbers. */
export interface Sentence {
  name: string;
  [number: string]: number | string;
}

/** A sentence in words: the fact that matters first, what explains it, and both as a short phrase. */
export interface Said {
  fact: string;
  more: string[];
  short: string;
}

/** Every sentence there is: each stands with the factor, or the floor, that says it. */
const WORDS = new Map(
  [...FACTORS, ...FLOORS].flatMap(({ words }) => Object.entries(words) as [string, (sentence: Sentence) => Said][]),
);

/**
 * A sentence in words.
 *
 * @example say({ name: 'quiet', days: 9, counted: 9, usual: 2 })
 * // { fact: 'Quiet 9 days', more: ['usually every 2 days'], short: 'quiet 9 days' }
 */
export function say(sentence: Sentence): Said {
  const words = WORDS.get(sentence.name);
  // Words of a reading from before sentences were kept as numbers, and of factors that are no more.
  return words ? words(sentence) : { fact: String(sentence.text ?? ''), more: [], short: String(sentence.text ?? '') };
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
