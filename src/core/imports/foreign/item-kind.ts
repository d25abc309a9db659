import type { ItemKind } from '../../courses/item-kinds';
import { KIND_WORDS, foldWord } from './words';

/** What was done with an item tells what it is, where its title does not. */
const BY_ACTION: readonly (readonly [kind: ItemKind, words: RegExp])[] = [
  ['discussion', /^(posted|replied|messaged)/],
  ['video', /^(played|watched|paused)/],
  ['quiz', /^(answered|attempted)/],
  ['assignment', /^(submitted|handed)/],
  ['file', /^(downloaded)/],
];

/**
 * What an item that no outline tells of is likely to be, by its title, else by what was done with it, else a page; something
 * with a score is an assignment.
 *
 * @example guessItemKind('Knots quiz', [], false) // 'quiz'
 */
export function guessItemKind(title: string, actions: Iterable<string>, isScored: boolean): ItemKind {
  const folded = foldWord(title);
  const byTitle = KIND_WORDS.find(([, words]) => words.test(folded));
  if (byTitle) return byTitle[0];
  const done = [...actions].map(foldWord);
  const byAction = BY_ACTION.find(([, words]) => done.some((action) => words.test(action)));
  return byAction?.[0] ?? (isScored ? 'assignment' : 'page');
}
