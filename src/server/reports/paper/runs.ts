/**
 * Text in the order in which it stands on paper: runs of one face and one direction, left to right as they are drawn. Words of
 * right-to-left scripts are put in their order by the Unicode Bidirectional Algorithm (UAX #9); the face shapes each run.
 */
import bidiFactory from 'bidi-js';
import { faceOf, plainFace, type Weight } from './faces';

export interface Run {
  text: string;
  face: string;
  isRightToLeft: boolean;
}

const bidi = bidiFactory();

/** What no face draws: controls, marks of direction, selectors of variants. */
const NOT_DRAWN =
  /[\u0000-\u0008\u000b\u000c\u000e-\u001f\u007f-\u009f\u200b\u200e\u200f\u202a-\u202e\u2060-\u2069\ufe00-\ufe0f\ufeff\ufff9-\ufffb]/g;
const HAS_RIGHT_TO_LEFT = /[\u0590-\u08ff\ufb1d-\ufdff\ufe70-\ufeff\u{10800}-\u{10fff}\u{1e800}-\u{1efff}]/u;
const LETTER = /\p{L}/u;
/** Signs that go with the one before: accents, vowels, joiners. */
const GOES_WITH = /[\p{M}\u200c\u200d]/u;
const ENDS_IN_LETTER = /[\p{L}\p{M}]$/u;
const PLAIN = /^[\u0020-\u007e\u00a0-\u00ff]*$/;

/** Text as it can be set on one line: line breaks and tabs are spaces, what nothing draws is left out. */
export function settable(text: string): string {
  return text
    .replace(/[\s\u2028\u2029]+/g, ' ')
    .replace(NOT_DRAWN, '')
    .replace(/\p{Surrogate}/gu, '\ufffd');
}

/** Pieces of one face each, in logical order. */
function byFace(text: string, weight: Weight): { text: string; face: string }[] {
  const pieces: { text: string; face: string }[] = [];
  for (const sign of text) {
    const last = pieces.at(-1);
    // A space, and what goes with a letter, stays in the letter's face: a shape is never split between two.
    const stays = last && (GOES_WITH.test(sign) || (sign === ' ' && ENDS_IN_LETTER.test(last.text)));
    const face = stays ? last.face : (faceOf(sign.codePointAt(0)!, weight) ?? last?.face ?? plainFace(weight));
    if (last && last.face === face) last.text += sign;
    else pieces.push({ text: sign, face });
  }
  return pieces;
}

/** A run without letters in right-to-left text: its signs are turned round and mirrored, which no face does by itself. */
function turned(text: string): string {
  return [...text].reverse().join('');
}

/**
 * The runs of a line.
 *
 * @param text one line, as `settable` gives it
 * @example runsOf('Norrick 12 مرحبا', 400) // a run of Latin, then one of Arabic, drawn from the left
 */
export function runsOf(text: string, weight: Weight): Run[] {
  if (PLAIN.test(text)) return text === '' ? [] : [{ text, face: plainFace(weight), isRightToLeft: false }];
  if (!HAS_RIGHT_TO_LEFT.test(text)) return byFace(text, weight).map((piece) => ({ ...piece, isRightToLeft: false }));
  const { levels } = bidi.getEmbeddingLevels(text);
  const mirrored = bidi.getMirroredCharactersMap(text, levels);
  const stretches: { level: number; text: string }[] = [];
  for (let at = 0; at < text.length; at += 1) {
    const sign = mirrored.get(at) ?? text[at];
    const last = stretches.at(-1);
    if (last && last.level === levels[at]) last.text += sign;
    else stretches.push({ level: levels[at], text: sign });
  }
  return inVisualOrder(stretches).flatMap(({ level, text: part }) => {
    const isRightToLeft = level % 2 === 1;
    const pieces = byFace(part, weight).map((piece) => ({
      face: piece.face,
      text: isRightToLeft && !LETTER.test(piece.text) ? turned(piece.text) : piece.text,
      isRightToLeft: isRightToLeft && LETTER.test(piece.text),
    }));
    return isRightToLeft ? pieces.reverse() : pieces;
  });
}

/** Stretches from left to right: from the highest level down, each run of at least that level is turned round (rule L2). */
function inVisualOrder<T extends { level: number }>(stretches: readonly T[]): T[] {
  const order = [...stretches];
  const highest = Math.max(...order.map(({ level }) => level));
  for (let level = highest; level > 0; level -= 1) {
    for (let start = 0; start < order.length; start += 1) {
      if (order[start].level < level) continue;
      let end = start;
      while (end < order.length && order[end].level >= level) end += 1;
      order.splice(start, end - start, ...order.slice(start, end).reverse());
      start = end;
    }
  }
  return order;
}

const words = new Intl.Segmenter('und', { granularity: 'word' });
const signs = new Intl.Segmenter('und', { granularity: 'grapheme' });
/** Signs that begin what follows: they never end a line. */
const OPENS = /[\p{Ps}\p{Pi}]$/u;

/** Parts of a text between which a line may end: words with the space after them, and words of scripts without spaces. */
export function breakable(text: string): string[] {
  const parts: string[] = [];
  for (const { segment, isWordLike } of words.segment(text)) {
    const last = parts.at(-1);
    const staysWithLast =
      last !== undefined && (OPENS.test(last) || (!isWordLike && (segment.trim() === '' || !/[\s-]$/.test(last))));
    if (staysWithLast) parts[parts.length - 1] = last + segment;
    else parts.push(segment);
  }
  return parts;
}

/** A text's signs as a reader counts them. */
export function graphemes(text: string): string[] {
  return [...signs.segment(text)].map(({ segment }) => segment);
}
