/**
 * What a reason says, kept as numbers and the name of its sentence: readings store these, and they are put into
 * words when they are read, so that better words hold for every reading there is.
 */
import type { Sentence, Said } from './sentence';
import { plural } from '../time/words';
import { FACTORS } from './model';

/** Every sentence there is: each stands with the factor that says it. */
const WORDS = new Map(
  FACTORS.flatMap(({ words }) => Object.entries(words) as [string, (sentence: Sentence) => Said][]),
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
  if (!words) {
    const text = String(sentence.text ?? 'read by an earlier model');
    return { fact: text, more: [], short: text };
  }
  const said = words(sentence);
  if (sentence.ahead === undefined) return said;
  const ahead = `${sentence.ahead} ${plural(sentence.ahead, 'week')} ahead of plan and nothing overdue: not held against them`;
  return { ...said, more: [...said.more, ahead] };
}

/** The whole of it on one line: "Quiet 9 days · usually every 2 days". */
export function sayWhole(sentence: Sentence): string {
  const { fact, more } = say(sentence);
  return [fact, ...more].join(' · ');
}

/**
 * Reasons in few words: the fact of the first, and what each of the others adds in short. What another has said already
 * (whoever did nothing said nothing) is not said again.
 */
export function sayBriefly(sentences: readonly Sentence[]): { fact: string; others: string[] } {
  const [first, ...rest] = sentences;
  if (!first) return { fact: '', others: [] };
  const didNothing = sentences.some(({ name, own }) => name === 'working' && own === 0);
  const adds = first.name === 'talking' ? rest : rest.filter(({ name }) => !(didNothing && name === 'talking'));
  return { fact: say(first).fact, others: adds.map((sentence) => say(sentence).short) };
}
