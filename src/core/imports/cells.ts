/** Writing cells that a spreadsheet will show and not run. */

/** What would be run, with the apostrophes that have made it harmless once or more. */
const RISKY = /^'*[=+\-@\t\r\uFF1D\uFF0B\uFF0D\uFF20]/;
const NUMBER = /^[+-]?\d+(\.\d+)?$/;

/**
 * Makes a text harmless in a spreadsheet: one that begins with = + - @ (or their full-width kin, which are read as them), tab
 * or carriage return gets an apostrophe before it, the mark for "this is text". A phone number keeps
 * its +, as text; a negative number stays a number.
 */
export function safeCell(value: string): string {
  if (!RISKY.test(value)) return value;
  if (value.startsWith('-') && NUMBER.test(value)) return value;
  return `'${value}`;
}

/** Takes back what safeCell did, exactly, so that a mended file of rejects reads as it was. */
export function plainCell(value: string): string {
  return value.startsWith("'") && RISKY.test(value.slice(1)) ? value.slice(1) : value;
}

/** A cell as a sheet or list holds it; null is empty. */
export type Cell = string | number | boolean | null;

/** One CSV line with its line break, quoted where needed, safe to open in a spreadsheet. */
export function csvLine(cells: readonly Cell[]): string {
  return `${cells.map(csvCell).join(',')}\r\n`;
}

/** Like csvLine, but each text exactly as given: for files that go back into an import. */
export function rawCsvLine(cells: readonly string[]): string {
  return `${cells.map(quoted).join(',')}\r\n`;
}

function csvCell(cell: Cell): string {
  if (cell === null) return '';
  if (typeof cell === 'string') return quoted(safeCell(cell));
  return String(cell);
}

function quoted(text: string): string {
  return /[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
}
