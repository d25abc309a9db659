import { DONE, EXCUSED, MISSING, NOTHING, NOT_DONE, foldWord } from './words';

/** What stands in a cell of a table with a column for each item. */
export type GradeCell =
  | { is: 'nothing' | 'missing' | 'excused' | 'done' | 'not done' }
  /** Points, out of a maximum where the cell names one. */
  | { is: 'points'; points: number; of: number | null }
  /** A share in per cent. */
  | { is: 'percent'; percent: number }
  | { is: 'unreadable' };

const NUMBER = String.raw`-?\d+(?:[.,]\d+)?`;
const OUT_OF = new RegExp(`^(${NUMBER}) ?(?:/|of|von|sur|de|su|van|z) ?(${NUMBER})$`);
const PER_CENT = new RegExp(`^(${NUMBER}) ?(?:%|per cent|prozent|pour cent|por ciento)$`);
const BARE = new RegExp(`^${NUMBER}$`);

/** A number with a point or a comma before its decimals; with both, the later one is it. */
function numberOf(text: string): number {
  return Number(text.replace(',', '.'));
}

/** A number as a cell has it, thousands parted by a thin or no-break space or by the mark that its decimals do not have. */
function plain(text: string): string {
  const parted = text.replace(/(?<=\d)[\u00A0\u202F ](?=\d{3}\b)/g, '');
  if (/^-?\d{1,3}(\.\d{3})+,\d+/.test(parted)) return parted.replaceAll('.', '');
  if (/^-?\d{1,3}(,\d{3})+\.\d+/.test(parted)) return parted.replaceAll(',', '');
  return parted;
}

/**
 * What a cell of a gradebook or a grid of what is done says.
 *
 * @example
 * readGradeCell('17/20') // { is: 'points', points: 17, of: 20 }
 * readGradeCell('13,8') // { is: 'points', points: 13.8, of: null }
 * readGradeCell('85 %') // { is: 'percent', percent: 85 }
 * readGradeCell('–') // { is: 'nothing' }
 * readGradeCell('✓') // { is: 'done' }
 */
export function readGradeCell(text: string): GradeCell {
  const cell = plain(text.trim());
  const folded = foldWord(cell);
  if (NOTHING.has(folded) || NOTHING.has(cell)) return { is: 'nothing' };
  // A decimal point is a full stop, which folding takes for one.
  const bare = cell.toLowerCase();
  if (BARE.test(bare)) return { is: 'points', points: numberOf(bare), of: null };
  const outOf = OUT_OF.exec(bare);
  if (outOf) return { is: 'points', points: numberOf(outOf[1]), of: numberOf(outOf[2]) };
  const percent = PER_CENT.exec(bare);
  if (percent) return { is: 'percent', percent: numberOf(percent[1]) };
  if (MISSING.has(folded)) return { is: 'missing' };
  if (EXCUSED.has(folded)) return { is: 'excused' };
  if (DONE.has(folded)) return { is: 'done' };
  if (NOT_DONE.has(folded)) return { is: 'not done' };
  return { is: 'unreadable' };
}

/** A heading of an item with what it is out of taken off it. @example readItemHeading('Knots (20)') // { title: 'Knots', points: 20 } */
export function readItemHeading(text: string): { title: string; points: number | null } {
  const heading = text.replace(/\s+/g, ' ').trim();
  // "28/09/2026" is a day, and not out of 2026.
  if (/^\d{1,4}[./-]\d{1,2}[./-]\d{1,4}$/.test(heading)) return { title: heading, points: null };
  const found =
    /^(.*\S) ?\((?:max\.? ?|out of |von |sur )?(\d+(?:[.,]\d+)?)(?: ?(?:points?|pts?|punkte|pt))?\)$/i.exec(heading) ??
    /^(.*\S) ?\/ ?(\d+(?:[.,]\d+)?)$/.exec(heading);
  return found ? { title: found[1].trim(), points: numberOf(found[2]) } : { title: heading, points: null };
}
