/** Texts without what a keyboard may lack: what is typed finds what is written. */

/** Letters of their own that are written otherwise where they cannot be typed. */
const PLAIN: Readonly<Record<string, string>> = {
  ł: 'l',
  ø: 'o',
  đ: 'd',
  ð: 'd',
  þ: 'th',
  ß: 'ss',
  æ: 'ae',
  œ: 'oe',
  ı: 'i',
};

/**
 * Folds a text for search and order: without accents, in small letters, with letters that stand alone spelt out.
 *
 * @example foldText('Zoë Łaski') // 'zoe laski'
 */
export function foldText(text: string): string {
  return text
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .replace(/[łøđðþßæœı]/g, (letter) => PLAIN[letter]);
}
