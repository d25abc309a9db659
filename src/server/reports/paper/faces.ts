/**
 * The faces that paper is set in, by what each covers: Latin with all its diacritics, Greek, Cyrillic, Devanagari, Arabic,
 * Hebrew, Thai, Chinese, Japanese and Korean. Each family comes as small files with a list of the code points of each.
 */
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';

export type Weight = 400 | 600;

/** Families in the order in which they are asked; where a part is named, no other part of the family is. */
const FAMILIES: readonly { name: string; parts?: readonly string[]; only?: RegExp; weights: readonly Weight[] }[] = [
  { name: 'noto-sans', weights: [400, 600] },
  { name: 'noto-sans-arabic', parts: ['arabic'], weights: [400, 600] },
  { name: 'noto-sans-hebrew', parts: ['hebrew'], weights: [400, 600] },
  { name: 'noto-sans-thai', parts: ['thai'], weights: [400, 600] },
  // Lists of the other say that it has some of these as well, and it draws boxes for them.
  { name: 'noto-sans-kr', only: /\p{Script=Hangul}/u, weights: [400, 600] },
  { name: 'noto-sans-sc', weights: [400, 600] },
  { name: 'noto-emoji', weights: [400] },
];

/** Parts that the first family has already. */
const OF_THE_FIRST = ['latin', 'latin-ext', 'vietnamese', 'cyrillic', 'cyrillic-ext', 'greek', 'greek-ext'];

interface Part {
  only?: RegExp;
  ranges: readonly (readonly [from: number, to: number])[];
  /** Its file by weight. */
  file: (weight: Weight) => string;
}

function readRanges(text: string): (readonly [number, number])[] {
  return text.split(',').map((range) => {
    const [from, to = from] = range.replace(/^U\+/i, '').split('-');
    return [Number.parseInt(from, 16), Number.parseInt(to, 16)] as const;
  });
}

function openParts(): Part[] {
  // Found as packages are, from where the application runs.
  const find = createRequire(join(process.cwd(), 'package.json')).resolve;
  return FAMILIES.flatMap(({ name, parts, only, weights }) => {
    const list = find(`@fontsource/${name}/unicode.json`);
    const ranges = JSON.parse(readFileSync(list, 'utf8')) as Record<string, string>;
    const isWanted = (part: string) =>
      parts ? parts.includes(part) : name === 'noto-sans' || !OF_THE_FIRST.includes(part);
    return Object.entries(ranges)
      .filter(([part]) => isWanted(part))
      .map(([part, text]): Part => {
        const own = (weight: Weight) => (weights.includes(weight) ? weight : weights[0]);
        return {
          only,
          ranges: readRanges(text),
          file: (weight) =>
            join(dirname(list), 'files', `${name}-${part.replace(/[[\]]/g, '')}-${own(weight)}-normal.woff`),
        };
      });
  });
}

let parts: Part[] | null = null;
const known = new Map<number, Part | null>();

function partOf(codePoint: number): Part | null {
  const found = known.get(codePoint);
  if (found !== undefined) return found;
  parts ??= openParts();
  const part =
    parts.find(
      ({ only, ranges }) =>
        ranges.some(([from, to]) => codePoint >= from && codePoint <= to) &&
        (only?.test(String.fromCodePoint(codePoint)) ?? true),
    ) ?? null;
  known.set(codePoint, part);
  return part;
}

/** The file of the face that has a sign; null where none has. */
export function faceOf(codePoint: number, weight: Weight): string | null {
  return partOf(codePoint)?.file(weight) ?? null;
}

/** The face of plain Latin text. */
export function plainFace(weight: Weight): string {
  return faceOf(0x61, weight)!;
}
