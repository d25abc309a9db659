/**
 * Reading delimited text that arrives in chunks, row by row with line numbers.
 * Papa Parse does the splitting; this keeps the unfinished row between chunks and
 * counts physical lines, which a quoted field may span several of. Line breaks of every
 * kind are read as line feeds, within a field too.
 */
import Papa from 'papaparse';

export interface CsvRow {
  /** The physical line the row begins on; the file's first is 1. */
  line: number;
  cells: string[];
  /** Set when the text could not be split into cells. */
  broken?: string;
}

/** A row longer than this is taken for a quotation mark that is never closed. */
const LONGEST_ROW = 1_000_000;

const DELIMITERS = [',', ';', '\t', '|'] as const;

/**
 * The delimiter of some lines: the one that stands equally often in most of them, outside quotes, and of two such the more
 * frequent. Of a heading alone it is the most frequent.
 *
 * @example delimiterOf('Name;Points\nInes;6,6\nPetra;7') // ';'
 */
export function delimiterOf(lines: string): string {
  const each = lines
    .replace(/"[^"]*"/g, '')
    .split('\n')
    .filter((line) => line.trim() !== '');
  const usual = (mark: string) => {
    const times = new Map<number, number>();
    for (const line of each) {
      const count = line.split(mark).length - 1;
      if (count > 0) times.set(count, (times.get(count) ?? 0) + 1);
    }
    const [count = 0, of = 0] = [...times].sort((a, b) => b[1] - a[1] || b[0] - a[0])[0] ?? [];
    return { mark, count, lines: of };
  };
  return DELIMITERS.map(usual).sort((a, b) => b.lines - a.lines || b.count - a.count)[0].mark;
}

const LINE_BREAK = /\r\n|\r/g;

export class CsvReader {
  private rest = '';
  private line = 1;
  private started = false;
  private parser: { parse(input: string, base: number, ignoreLast: boolean): Papa.ParseResult<string[]> } | null = null;
  /** Did the last piece end with a carriage return, which a line feed may follow? */
  private cut = false;

  /** @param delimiter where it is known; else the heading on the first line tells */
  constructor(private delimiter: string | null = null) {}

  /** Takes the next piece of text and returns the rows it completes. Blank lines are skipped. */
  push(chunk: string): CsvRow[] {
    this.rest += this.withPlainBreaks(chunk);
    if (!this.started) {
      // Wait for the whole heading.
      if (!this.rest.includes('\n') && this.rest.length < LONGEST_ROW) return [];
      this.start();
    }
    return this.split(false);
  }

  /** Any line break ends a row, whatever those before it were: from here on they are line feeds. */
  private withPlainBreaks(chunk: string): string {
    let text = this.cut ? `\r${chunk}` : chunk;
    this.cut = text.endsWith('\r');
    if (this.cut) text = text.slice(0, -1);
    return text.includes('\r') ? text.replace(LINE_BREAK, '\n') : text;
  }

  /** The rows left when no more text comes. */
  finish(): CsvRow[] {
    if (this.cut) this.rest += '\n';
    this.cut = false;
    if (!this.started) this.start();
    const rows = this.rest === '' ? [] : this.split(true);
    this.rest = '';
    return rows;
  }

  private start() {
    this.started = true;
    if (this.rest.charCodeAt(0) === 0xfeff) this.rest = this.rest.slice(1);
    this.delimiter ??= delimiterOf(this.rest.split('\n', 1)[0]);
    this.parser = new Papa.Parser({ delimiter: this.delimiter, newline: '\n' });
  }

  private split(last: boolean): CsvRow[] {
    const rows: CsvRow[] = [];
    for (;;) {
      const result = this.parser!.parse(this.rest, 0, !last);
      const quoted = this.rest.includes('"');
      const faults = new Map(result.errors.map((fault) => [fault.row, fault.message]));
      const open = last && result.errors.some((fault) => fault.code === 'MissingQuotes');
      const tooLong = !last && this.rest.length - result.meta.cursor > LONGEST_ROW;
      const whole = open ? result.data.slice(0, -1) : result.data;
      whole.forEach((cells, index) => this.take(rows, cells, quoted, faults.get(index)));
      if (!open && !tooLong) {
        this.rest = last ? '' : this.rest.slice(result.meta.cursor);
        return rows;
      }
      // A quotation mark is never closed: give up that physical line alone, read on after it.
      this.rest = this.rest.slice(open ? this.startOfLast(whole) : result.meta.cursor);
      const end = this.rest.indexOf('\n');
      const text = end < 0 ? this.rest : this.rest.slice(0, end);
      rows.push({ line: this.line, cells: text.split(this.delimiter!), broken: 'a quotation mark is never closed' });
      this.line += 1;
      this.rest = end < 0 ? '' : this.rest.slice(end + 1);
      if (this.rest === '') return rows;
    }
  }

  /** Where the unfinished last row begins: after all the lines of the rows before it. */
  private startOfLast(before: string[][]): number {
    if (before.length === 0) return 0;
    const again = this.parser!.parse(this.rest, 0, true);
    return again.data.length === before.length ? again.meta.cursor : this.rest.length;
  }

  private take(rows: CsvRow[], cells: string[], quoted: boolean, broken?: string) {
    const line = this.line;
    this.line += 1;
    if (quoted) for (const cell of cells) this.line += cell.match(/\n/g)?.length ?? 0;
    if (cells.length === 1 && cells[0].trim() === '') return;
    rows.push(broken ? { line, cells, broken } : { line, cells });
  }
}
