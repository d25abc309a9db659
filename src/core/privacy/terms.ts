/** What of somebody can stand in a text: their ids, names, addresses and numbers, and how it is taken out. */

/** Days in which an erasure can be taken back. */
export const TAKE_BACK_DAYS = 14;

/** Whoever an erased record points to. */
export const SOMEBODY_ERASED = 'somebody erased';

export interface PersonTerms {
  /** The source's own ids. */
  ids: readonly string[];
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

/** Ids shorter than this stand for other things as well: they are looked for only where a text says that it is a learner's. */
const SHORTEST_ID = 4;

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
export function openEraser({ ids, names, addresses }: PersonTerms): Eraser {
  const isWhole = (pattern: string) => `(?<![\\p{L}\\p{N}])(?:${pattern})(?![\\p{L}\\p{N}])`;
  const nameParts = names.flatMap(namePatterns);
  const plain = [
    ...addresses.filter((one) => one.trim() !== ''),
    ...ids.filter((id) => id.length >= SHORTEST_ID),
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

/** Is a cell of a file, or a row of it, theirs? @param cells of one row */
export function isRowOf({ ids, addresses }: PersonTerms, eraser: Eraser, cells: readonly string[]): boolean {
  const own = new Set([...ids, ...addresses].map((one) => one.trim().toLowerCase()));
  return cells.some((cell) => own.has(cell.trim().toLowerCase()) || eraser.finds(cell));
}
