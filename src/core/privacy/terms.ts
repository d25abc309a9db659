/** What of somebody can stand in a text: their ids, names, addresses and numbers, and how it is taken out. */

import { foldText } from '../people/fold';

/** Days in which an erasure can be taken back. */
export const TAKE_BACK_DAYS = 14;

/** Whoever an erased record points to. */
export const SOMEBODY_ERASED = 'somebody erased';

export interface PersonTerms {
  /** The source's own ids. */
  ids: readonly string[];
  /** Of these, any that stand for a course, an item or a session as well: no text is searched for them. */
  ambiguous?: readonly string[];
  /** Whole names; none where somebody else bears the same. */
  names: readonly { given: string; family: string }[];
  /** E-mail addresses and phone numbers, their own and their contacts'. */
  addresses: readonly string[];
}

/** Takes somebody out of texts. */
export interface Eraser {
  /** Does anything of theirs stand in it? */
  finds(text: string): boolean;
  /** The text without them. */
  erase(text: string): string;
}

/**
 * Is an id one that stands for nothing else in a text? A short one, or a number that may be a year or a count, is looked for only
 * where a text says that it is a learner's.
 */
const isTelling = (id: string) => id.length >= 7 || (id.length >= 5 && /\p{L}/u.test(id));
/** An address or a number shorter than this is none that tells anybody. */
const SHORTEST_ADDRESS = 6;

/** Of a longer word the beginning is looked for, with whatever follows it: an expression cannot be of any length. */
const LONGEST_WORD = 200;

/** A text as an expression takes it for itself. */
function escaped(text: string): string {
  const own = text.slice(0, LONGEST_WORD).replace(/[.*+?^${}()|[\]\\/]/g, '\\$&');
  return text.length > LONGEST_WORD ? `${own}\\S*` : own;
}

/** Words of a name that are looked for. */
const MOST_WORDS = 20;

/** A name in either order, however far apart its words are written. */
function namePatterns({ given, family }: { given: string; family: string }): string[] {
  const words = (text: string) =>
    text.trim().split(/\s+/).filter(Boolean).slice(0, MOST_WORDS).map(escaped).join('\\s+');
  const [first, last] = [words(given), words(family)];
  if (first === '' || last === '') return [];
  return [`${first}\\s+${last}`, `${last},?\\s+${first}`];
}

/** As JSON and addresses write it. */
const spellings = (text: string) => [...new Set([text, JSON.stringify(text).slice(1, -1), encodeURIComponent(text)])];

/**
 * What finds somebody in texts and takes them out. Upper and lower case are alike; what is part of a longer word is another word.
 *
 * @example
 * const eraser = openEraser({ ids: ['L1'], names: [{ given: 'Ines', family: 'Marrow' }], addresses: ['ines@home.example'] });
 * eraser.erase('Call INES MARROW at ines@home.example'); // 'Call somebody erased at erased'
 */
export function openEraser({ ids, names, addresses, ambiguous = [] }: PersonTerms): Eraser {
  const isWhole = (pattern: string) => `(?<![\\p{L}\\p{N}])(?:${pattern})(?![\\p{L}\\p{N}])`;
  // As it is written, and as whoever has no such letters writes it.
  const nameParts = names.flatMap(({ given, family }) => [
    ...namePatterns({ given, family }),
    ...namePatterns({ given: foldText(given), family: foldText(family) }),
  ]);
  const plain = [
    ...addresses.filter((one) => one.trim().length >= SHORTEST_ADDRESS),
    ...ids.filter((id) => isTelling(id) && !ambiguous.includes(id)),
  ].flatMap((one) => spellings(one).map(escaped));
  const short = ids.filter(Boolean).flatMap((id) => spellings(id).map(escaped));
  const byName = nameParts.length === 0 ? null : new RegExp(isWhole(nameParts.join('|')), 'giu');
  const byTerm = plain.length === 0 ? null : new RegExp(isWhole(plain.join('|')), 'giu');
  // Where a text says that it is a learner: a filter in an address, a field of JSON, a list of learners.
  const said =
    short.length === 0
      ? null
      : new RegExp(
          `((?:learner|learner_id|learnerId)(?:=|":\\s*"|: ))(?:${short.join('|')})(?=[&"\\s,}]|$)|("learners":\\s*\\[[^\\]]*)`,
          'gu',
        );
  const inList = short.length === 0 ? null : new RegExp(`"(?:${short.join('|')})"`, 'gu');
  const erase = (text: string) => {
    let left = text;
    if (byName) left = left.replace(byName, SOMEBODY_ERASED);
    if (byTerm) left = left.replace(byTerm, 'erased');
    if (said)
      left = left.replace(said, (whole, head: string | undefined, list: string | undefined) =>
        head === undefined ? (list ?? whole).replace(inList!, '"erased"') : `${head}erased`,
      );
    return left;
  };
  return { erase, finds: (text) => erase(text) !== text };
}

/** Headings of columns that say of whom a row is. */
const OF_WHOM =
  /(^|_)(id|ids|uid|learner|student|user|username|participant|person|member|pupil|actor|login|number|mail|email)(_|$)/;

/**
 * Which of a file's rows are theirs, by its heading: an id that could be anything counts only in a column that says of whom a row is.
 *
 * @param heading cells of its first row
 */
export function rowsOf(
  terms: PersonTerms,
  eraser: Eraser,
  heading: readonly string[],
): (cells: readonly string[]) => boolean {
  const folded = (text: string) => text.trim().toLowerCase();
  const own = new Set([...terms.ids, ...terms.addresses].map(folded).filter(Boolean));
  const isOfWhom = heading.map((name) => OF_WHOM.test(folded(name).replace(/[^\p{L}\p{N}]+/gu, '_')));
  const tellsWhom = isOfWhom.includes(true);
  return (cells) =>
    cells.some((cell, index) => ((!tellsWhom || isOfWhom[index]) && own.has(folded(cell))) || eraser.finds(cell));
}
