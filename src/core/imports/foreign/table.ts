import { readGradeCell } from './grade-cell';
import { dateInHeading } from './register';
import { PERSON_ROLES, roleOfHeading } from './roles';
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
  /** The same without units. */
  names: string[];
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
  // The columns of a register are headed by the days of its sessions, beside one for whose row it is.
  const isRegister = cells.some((cell) => PERSON_ROLES.includes(roleOfHeading(cell)!));
  const data = cells.filter((cell) => isData(cell) && !(isRegister && dateInHeading(cell) !== null));
  if (data.length > 0.1 * cells.length) return false;
  // "Began" and "Course" beside what they are: a pair is no table of two columns while wider rows follow.
  if (cells.length === 2 && widest > 2 && (row[0] ?? '').trim() !== '') return false;
  // An item's title may stand twice; beside one for whose row it is, oftener.
  return new Set(cells.map(foldWord)).size >= (isRegister ? 0.3 : 0.6) * cells.length;
}

/** Is it by its words a row of headings, one of them of somebody? A row of data is never so. */
function saysHeadings(row: readonly string[]): boolean {
  const cells = row.filter((cell) => cell.trim() !== '');
  if (cells.length < 3 || cells.some((cell) => cell.length > 60)) return false;
  const roles = cells.map(roleOfHeading);
  const known = roles.filter((role) => role !== null);
  return (
    known.length >= 0.6 * cells.length && new Set(known).size > 1 && known.some((role) => PERSON_ROLES.includes(role))
  );
}

/**
 * The rows of a table among all that follow its heading: a file may hold several one below the other, each with a title of its
 * own, and systems that join files leave the same heading in again.
 *
 * @param heading as the file has it
 */
export class TableRows {
  private isOver = false;

  constructor(private readonly heading: readonly string[]) {}

  /** What of the rows so far is the table's, one at a time: a line that may be the title of the next one waits for the next row. */
  take<T extends { cells: readonly string[] }>(row: T, held: T | null): { rows: T[]; held: T | null } {
    if (this.isOver) return { rows: [], held: null };
    const { cells } = row;
    const first = cells[0] ?? '';
    // Nearly every row is told apart by its first cell alone.
    const mayBeHeading = cells.length >= 3 && first.length < 60 && !/^\s*\d/.test(first);
    if (mayBeHeading && saysHeadings(cells)) {
      const isSame = this.heading.every((name, index) => name === '' || (cells[index] ?? '').trim() === name);
      if (isSame) return { rows: held ? [held] : [], held: null };
      this.isOver = true;
      return { rows: [], held: null };
    }
    const before = held ? [held] : [];
    const isTitle =
      this.heading.length >= 3 && cells.length > 0 && cells.every((cell, at) => at === 0 || cell.trim() === '');
    return isTitle ? { rows: before, held: row } : { rows: [...before, row], held: null };
  }
}

/** Those of some rows below a heading that are its table's. */
export function rowsOfTable(rows: readonly (readonly string[])[], heading: readonly string[]): (readonly string[])[] {
  const table = new TableRows(heading);
  const found: (readonly string[])[] = [];
  let held: { cells: readonly string[] } | null = null;
  for (const cells of rows) {
    const taken: { rows: { cells: readonly string[] }[]; held: { cells: readonly string[] } | null } = table.take(
      { cells },
      held,
    );
    found.push(...taken.rows.map((row) => row.cells));
    held = taken.held;
  }
  return held === null ? found : [...found, held.cells];
}

/** A line above the table. */
function factOf(row: readonly string[]): Fact[] {
  const cells = row.map((cell) => cell.replace(/\s+/g, ' ').trim()).filter((cell) => cell !== '');
  if (cells.length === 0) return [];
  if (cells.length >= 2) return [{ name: cells[0].replace(/\s*:$/, ''), value: cells.slice(1).join(' ') }];
  const pair = /^([^:]{1,40}?)\s*:\s+(\S.*)$/.exec(cells[0]);
  return [pair ? { name: pair[1], value: pair[2] } : { name: null, value: cells[0] }];
}

/** What stands above a table: its lines, and of a small table of its own what stands under each of its headings. */
function factsIn(rows: readonly (readonly string[])[]): Fact[] {
  const facts: Fact[] = [];
  for (let at = 0; at < rows.length; at += 1) {
    const [row, below] = [rows[at], rows[at + 1]];
    const isPair =
      below !== undefined && filled(row) >= 3 && filled(below) >= 3 && !row.some(isData) && below.some(isData);
    if (!isPair) facts.push(...factOf(row));
    else {
      facts.push(
        ...row.flatMap((name, index) =>
          name.trim() && below[index]?.trim() ? [{ name: name.trim(), value: below[index].trim() }] : [],
        ),
      );
      at += 1;
    }
  }
  return facts;
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

/** The first row that is a heading; of several tables below each other, that of the one with the most rows. */
function headingAmong(rows: readonly (readonly string[])[]): number {
  const first = rows.findIndex((row, index) => isHeading(row, rows.slice(index + 1)));
  // The same heading again begins no other table.
  const said = new Set<string>();
  const all = rows.flatMap((row, index) => {
    if (index !== first && (index < first || !saysHeadings(row))) return [];
    const key = JSON.stringify(row.map((cell) => cell.trim()));
    if (said.has(key)) return [];
    said.add(key);
    return [index];
  });
  if (first < 0 || all.length === 1) return first;
  const lengths = all.map((index, place) => (all[place + 1] ?? rows.length) - index);
  return all[lengths.indexOf(Math.max(...lengths))];
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
  const at = headingAmong(rows);
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
    preamble: factsIn(rows.slice(0, units ? headingAt - 1 : headingAt)),
    heading,
    names,
    points,
    bodyFrom: headingAt + (points ? 2 : 1),
  };
}
