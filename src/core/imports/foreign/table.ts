import { readGradeCell } from './grade-cell';
import { POINTS, SUMS, foldWord } from './words';

/** Something that a file says above its table: "Began, 14/10/2026 18:30", or a title alone. */
interface Fact {
  /** Null for a line that is no pair. */
  name: string | null;
  value: string;
}

/** Where a table begins, and what stands above its rows. */
export interface TableHead {
  preamble: Fact[];
  /** One heading a column; of two rows above each other, as "unit: item". */
  heading: string[];
  /** What each column is out of, where a row under the heading says so. */
  points: (number | null)[] | null;
  /** Index of the first row of data. */
  bodyFrom: number;
}

const filled = (row: readonly string[]) => row.filter((cell) => cell.trim() !== '').length;

/** Does a cell look like data: a number, a date, an address, something done? A heading is words. */
function isData(cell: string): boolean {
  const text = cell.trim();
  if (text === '') return false;
  if (/^\S+@\S+$/.test(text) || /^\d{1,4}[./-]\d{1,2}[./-]\d{1,4}/.test(text) || /^\d{1,2}:\d{2}/.test(text))
    return true;
  const { is } = readGradeCell(text);
  return is === 'points' || is === 'percent' || text.length > 200;
}

/** Is it a row of headings: words, most of them once, over as many columns as the rows below it have? */
function isHeading(row: readonly string[], below: readonly (readonly string[])[]): boolean {
  const cells = row.map((cell) => cell.trim()).filter((cell) => cell !== '');
  const widest = Math.max(0, ...below.slice(0, 20).map(filled));
  if (cells.length < Math.max(2, 0.6 * widest)) return false;
  if (cells.filter(isData).length > 0.1 * cells.length) return false;
  // "Began" and "Course" beside what they are: a pair is no table of two columns while wider rows follow.
  if (cells.length === 2 && widest > 2) return false;
  return new Set(cells.map(foldWord)).size >= 0.6 * cells.length;
}

/** A line above the table. */
function factOf(row: readonly string[]): Fact[] {
  const cells = row.map((cell) => cell.trim()).filter((cell) => cell !== '');
  if (cells.length === 0) return [];
  if (cells.length >= 2) return [{ name: cells[0].replace(/\s*:$/, ''), value: cells.slice(1).join(' ') }];
  const pair = /^([^:]{1,40}?)\s*:\s+(\S.*)$/.exec(cells[0]);
  return [pair ? { name: pair[1], value: pair[2] } : { name: null, value: cells[0] }];
}

/** A row of units over the headings: nothing over the first, each over those until the next. */
function unitsOver(row: readonly string[] | undefined, heading: readonly string[]): string[] | null {
  if (!row || (row[0] ?? '').trim() !== '' || filled(row) === 0 || filled(row) >= filled(heading)) return null;
  if (row.some(isData)) return null;
  let unit = '';
  return heading.map((_, index) => (unit = (row[index] ?? '').trim() || unit));
}

/** A row of totals or means, which is left out; the first thing that stands in it says so. */
export function isSums(row: readonly string[]): boolean {
  const first = row.find((cell) => cell !== '' && cell.trim() !== '');
  // Nearly every row of a log begins with a date, which is no word for a sum.
  if (first === undefined || /^\d/.test(first)) return false;
  return SUMS.test(foldWord(first));
}

/** The row under the heading that says what each column is out of: by its name, or by having numbers and nobody. */
function pointsIn(row: readonly string[] | undefined, heading: readonly string[]): (number | null)[] | null {
  if (!row) return null;
  const first = row.findIndex((cell) => cell.trim() !== '');
  if (first < 0) return null;
  const points = heading.map((_, index) => {
    const cell = readGradeCell(row[index] ?? '');
    return cell.is === 'points' ? cell.points : null;
  });
  const count = points.filter((value) => value !== null).length;
  const isNamed = POINTS.test(foldWord(row[first]));
  const isNobody = first > 0 && filled(row) === count && count >= 2;
  return count > 0 && (isNamed || isNobody) ? points : null;
}

/**
 * Finds where a table begins among the first rows of a file: below a title, what the file says of itself, and blank lines.
 *
 * @param rows the first rows of the file, sixty of them or all; blank ones too
 * @returns null where no row is a heading
 *
 * @example
 * findTable([['Meeting report'], ['Began', '14/10/2026 18:30'], [], ['Participant', 'Time'], ['Ines', '5 min']])
 * // { preamble: [{ name: null, value: 'Meeting report' }, { name: 'Began', value: '14/10/2026 18:30' }],
 * //   heading: ['Participant', 'Time'], points: null, bodyFrom: 4 }
 */
export function findTable(rows: readonly (readonly string[])[]): TableHead | null {
  const at = rows.findIndex((row, index) => isHeading(row, rows.slice(index + 1)));
  if (at < 0) return null;
  // Two rows of words: the one below is the heading if the first is sparse over it.
  const below = rows[at + 1];
  const isSecond = below !== undefined && unitsOver(rows[at], below) !== null && isHeading(below, rows.slice(at + 2));
  const headingAt = isSecond ? at + 1 : at;
  const names = rows[headingAt].map((cell) => cell.replace(/\s+/g, ' ').trim());
  while (names.at(-1) === '') names.pop();
  const units = unitsOver(rows[headingAt - 1], names);
  const heading = units ? names.map((name, index) => (units[index] ? `${units[index]}: ${name}` : name)) : names;
  const points = pointsIn(rows[headingAt + 1], heading);
  return {
    preamble: rows.slice(0, units ? headingAt - 1 : headingAt).flatMap(factOf),
    heading,
    points,
    bodyFrom: headingAt + (points ? 2 : 1),
  };
}
