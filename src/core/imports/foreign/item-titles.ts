/** Titles of items as other systems head their columns with them, beside those of an outline. */
import { likeness } from '../../sessions/match';
import { KIND_WORDS, foldWord } from './words';

const words = (title: string) => title.split(/\s+/).filter((word) => word !== '');

/** Letters that a title has to keep for what was taken off it to be no part of it. */
const ENOUGH = /\p{L}.*\p{L}.*\p{L}/u;

/**
 * Titles without the words that all of them begin or end with: what a system adds to each. Left as they are where one would be
 * left with less than three letters: "Quiz 1" and "Quiz 2" share what they are.
 *
 * @example withoutShared(['Knots (score)', 'Walls (score)']) // ['Knots', 'Walls']
 */
export function withoutShared(titles: readonly string[]): string[] {
  const all = titles.map(words);
  if (all.length < 2) return [...titles];
  const shortest = Math.min(...all.map((one) => one.length)) - 1;
  const shared = (at: (own: readonly string[], place: number) => string, most: number) => {
    let count = 0;
    while (count < most && all.every((own) => at(own, count) === at(all[0], count))) count += 1;
    return count;
  };
  const head = shared((own, place) => own[place], shortest);
  const tail = shared((own, place) => own[own.length - 1 - place], shortest - head);
  const bare = all.map((own) => own.slice(head, own.length - tail).join(' '));
  return bare.every((title) => ENOUGH.test(title)) ? bare : [...titles];
}

/** What systems add to the titles of their columns, which is no part of an item's. */
const ADDED =
  /^(\(.*\)|\[.*\]|completed?|done|state|status|score|grade|mark|points?|result|erledigt|abgeschlossen|punkte|bewertung|note|termine|acheve|completado|puntos|nota|completato|punti|voto|voltooid|punten|cijfer|ukonczone|punkty|ocena)$/;

/**
 * What an item is called that a column is headed with: without what is added to all of them, where that says nothing of it.
 *
 * @param bare as `withoutShared` has it
 * @example titleOf('Knots completed', 'Knots') // 'Knots'
 * @example titleOf('Unit Knots', 'Knots') // 'Unit Knots'
 */
export function titleOf(title: string, bare: string): string {
  const from = title.replace(/\s+/g, ' ').trim();
  const at = from.indexOf(bare);
  if (bare === from || at < 0) return title;
  const added = words(`${from.slice(0, at)} ${from.slice(at + bare.length)}`);
  return added.every((word) => ADDED.test(foldWord(word))) ? bare : title;
}

/**
 * A title without the name of its kind before a colon; null for one without.
 *
 * @example withoutKind('Quiz: Knots') // 'Knots'
 */
export function withoutKind(title: string): string | null {
  const found = /^([^:]{2,30}?)\s*:\s+(\S.*)$/.exec(title);
  return found && KIND_WORDS.some(([, kind]) => kind.test(foldWord(found[1]))) ? found[2] : null;
}

const folded = (title: string) => foldWord(withoutKind(title) ?? title).slice(0, 200);

/** From here on a title is like enough to another to be proposed. */
const LIKE = 0.88;

/** Those of some titles that are like one, the likest first: proposed, and never taken for it. */
export function likeTitles<T extends { title: string }>(title: string, known: readonly T[]): T[] {
  const own = folded(title);
  return known
    .map((one) => ({ one, like: likeness(own, folded(one.title)) }))
    .filter(({ like }) => like >= LIKE)
    .sort((a, b) => b.like - a.like)
    .slice(0, 3)
    .map(({ one }) => one);
}
