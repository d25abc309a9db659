/**
 * Workbooks (ECMA-376) as a stream of bytes: rows go in by chunks and come out packed, so that a list of any
 * length takes little memory. Packing is done by a thread of its own.
 */
import { ZipDeflate, ZipPassThrough, strToU8 } from 'fflate';
import { safeCell, type Cell } from '@/core/imports/cells';
import { DAY, offsetAt } from '@/core/time/zone';
import { PackedFile, Packing } from './packing';

/** A sheet holds this many rows, heading included. */
const SHEET = 1_048_576;

const HEAD = '<?xml version="1.0" encoding="UTF-8" standalone="yes"?>\n';
const MAIN = 'http://schemas.openxmlformats.org/spreadsheetml/2006/main';
const RELATIONS = 'http://schemas.openxmlformats.org/officeDocument/2006/relationships';
const PACKAGE = 'http://schemas.openxmlformats.org/package/2006';
const PART = 'application/vnd.openxmlformats-officedocument.spreadsheetml';

/** Text as XML 1.0 may hold it; what it may not hold is left out. */
function escaped(text: string): string {
  return (
    text
      .replace(/[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]|\p{Surrogate}/gu, '')
      .replace(/[&<>"]/g, (sign) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[sign]!)
      // A program that reads it takes _x000A_ for a character's number.
      .replace(/_(?=x[0-9A-Fa-f]{4}_)/g, '_x005F_')
      // Otherwise a reader of XML makes one line break of them.
      .replaceAll('\r', '_x000D_')
  );
}

/** A column's letters: A to Z, AA … */
function lettersOf(column: number): string {
  const rest = Math.floor(column / 26);
  return (rest > 0 ? lettersOf(rest - 1) : '') + String.fromCharCode(65 + (column % 26));
}

/** A number that a program shows as something else: a date (days since 1900), a date with its time, a share or per cent. */
export interface TypedCell {
  value: number;
  as: keyof typeof STYLES_OF;
}

export type SheetCell = Cell | TypedCell;

/** Places of the formats in the list of styles below. */
const STYLES_OF = { date: 2, time: 3, share: 4, percent: 5 } as const;

/** The day that programs count as 0, in days before 1970. */
const FIRST_DAY = 25_569;

/** A day number as a cell. */
export function dateCell(day: number): TypedCell {
  return { value: day + FIRST_DAY, as: 'date' };
}

/** An instant as a cell, in the wall clock of a zone: cells know no zones. */
export function timeCell(at: number, zone: string): TypedCell {
  return { value: Math.round(((at + offsetAt(at, zone)) / DAY + FIRST_DAY) * 1e8) / 1e8, as: 'time' };
}

function cellXml(cell: SheetCell, place: string, style: string): string {
  if (cell === null || (typeof cell === 'number' && !Number.isFinite(cell))) return '';
  if (typeof cell === 'object') return `<c r="${place}" s="${STYLES_OF[cell.as]}"><v>${cell.value}</v></c>`;
  if (typeof cell === 'boolean') return `<c r="${place}" t="b"><v>${cell ? 1 : 0}</v></c>`;
  if (typeof cell === 'number') return `<c r="${place}"><v>${cell}</v></c>`;
  return `<c r="${place}"${style} t="inlineStr"><is><t xml:space="preserve">${escaped(safeCell(cell))}</t></is></c>`;
}

/** A row of a sheet, the heading being the first. */
function rowXml(cells: readonly SheetCell[], letters: readonly string[], row: number): string {
  const style = row === 1 ? ' s="1"' : '';
  return `<row r="${row}">${cells.map((cell, at) => cellXml(cell, `${letters[at]}${row}`, style)).join('')}</row>`;
}

/** A column of a sheet: its heading, and how wide it is in signs. */
export interface SheetColumn {
  title: string;
  width?: number;
}

function sheetBegin(columns: readonly SheetColumn[]): string {
  const widths = columns.map(({ width }, at) =>
    width === undefined ? '' : `<col min="${at + 1}" max="${at + 1}" width="${width}" customWidth="1"/>`,
  );
  const cols = widths.some(Boolean) ? `<cols>${widths.join('')}</cols>` : '';
  return `${HEAD}<worksheet xmlns="${MAIN}"><sheetViews><sheetView workbookViewId="0"><pane ySplit="1" topLeftCell="A2" activePane="bottomLeft" state="frozen"/></sheetView></sheetViews>${cols}<sheetData>`;
}

function sheetEnd(columns: number, rows: number): string {
  const filter = columns === 0 ? '' : `<autoFilter ref="A1:${lettersOf(columns - 1)}${rows}"/>`;
  return `</sheetData>${filter}</worksheet>`;
}

const FORMATS = ['yyyy\\-mm\\-dd', 'yyyy\\-mm\\-dd hh:mm', '0%', '0.0&quot; %&quot;'];
const STYLES = `${HEAD}<styleSheet xmlns="${MAIN}"><numFmts count="${FORMATS.length}">${FORMATS.map((code, at) => `<numFmt numFmtId="${164 + at}" formatCode="${code}"/>`).join('')}</numFmts><fonts count="2"><font/><font><b/></font></fonts><fills count="1"><fill/></fills><borders count="1"><border/></borders><cellStyleXfs count="1"><xf/></cellStyleXfs><cellXfs count="${2 + FORMATS.length}"><xf fontId="0"/><xf fontId="1" applyFont="1"/>${FORMATS.map((_, at) => `<xf fontId="0" numFmtId="${164 + at}" applyNumberFormat="1"/>`).join('')}</cellXfs></styleSheet>`;

/** Letters that a sheet's name may have at most, and signs that it may not. */
const NAME_LENGTH = 31;
const NOT_IN_NAMES = /[[\]:*?/\\\u0000-\u001f]/g;

/** A sheet's name that no other has: programs take them for the same whatever their capitals. */
function sheetName(wanted: string, taken: Set<string>): string {
  const plain =
    wanted
      .replace(NOT_IN_NAMES, ' ')
      .replace(/^'+|'+$/g, '')
      .trim() || 'Sheet';
  for (let number = 1; ; number += 1) {
    const tail = number === 1 ? '' : ` ${number}`;
    const signs = [...plain];
    while (signs.join('').length > NAME_LENGTH - tail.length) signs.pop();
    const name = signs.join('').trimEnd() + tail;
    if (taken.has(name.toLowerCase())) continue;
    taken.add(name.toLowerCase());
    return name;
  }
}

function relations(list: readonly [type: string, target: string][]): string {
  const each = list.map(([type, target], at) => `<Relationship Id="r${at + 1}" Type="${type}" Target="${target}"/>`);
  return `${HEAD}<Relationships xmlns="${PACKAGE}/relationships">${each.join('')}</Relationships>`;
}

/** The parts beside the sheets. */
function partsOf(names: readonly string[]): Record<string, string> {
  const numbers = names.map((_, index) => index + 1);
  const name = (number: number) => escaped(names[number - 1]);
  const part = (path: string, type: string) => `<Override PartName="${path}" ContentType="${PART}.${type}+xml"/>`;
  return {
    '[Content_Types].xml': `${HEAD}<Types xmlns="${PACKAGE}/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>${part('/xl/workbook.xml', 'sheet.main')}${part('/xl/styles.xml', 'styles')}${numbers.map((n) => part(`/xl/worksheets/sheet${n}.xml`, 'worksheet')).join('')}</Types>`,
    '_rels/.rels': relations([[`${RELATIONS}/officeDocument`, 'xl/workbook.xml']]),
    'xl/workbook.xml': `${HEAD}<workbook xmlns="${MAIN}" xmlns:r="${RELATIONS}"><sheets>${numbers.map((n) => `<sheet name="${name(n)}" sheetId="${n}" r:id="r${n}"/>`).join('')}</sheets></workbook>`,
    'xl/_rels/workbook.xml.rels': relations([
      ...numbers.map((n): [string, string] => [`${RELATIONS}/worksheet`, `worksheets/sheet${n}.xml`]),
      [`${RELATIONS}/styles`, 'styles.xml'],
    ]),
    'xl/styles.xml': STYLES,
  };
}

/** Rows of a workbook, some at a time; with a name, they begin a sheet of it. */
export interface SheetRows {
  sheet?: string;
  rows: readonly (readonly SheetCell[])[];
}

type Rows = readonly (readonly SheetCell[])[] | SheetRows;

/**
 * A workbook of one table, on as many sheets as its rows need or as are begun by name; the heading is bold, stays in sight
 * and has a filter. Texts are made harmless as in CSV. Whoever stops reading stops the packing.
 *
 * @param chunks rows, some at a time
 * @example Readable.from(workbook('Learners', ['name'], [[['Ines Aldous']]]))
 */
export async function* workbook(
  title: string,
  heads: readonly (string | SheetColumn)[],
  chunks: AsyncIterable<Rows> | Iterable<Rows>,
): AsyncGenerator<Uint8Array> {
  const columns = heads.map((head): SheetColumn => (typeof head === 'string' ? { title: head } : head));
  const packing = new Packing();
  const letters = columns.map((_, column) => lettersOf(column));
  const titles = columns.map((column) => column.title);
  const names: string[] = [];
  const taken = new Set<string>();
  let [wanted, onSheet] = [title, SHEET];
  let sheet: PackedFile | ZipDeflate | null = null;
  const endSheet = () => sheet?.push(strToU8(sheetEnd(columns.length, onSheet)), true);
  // A thread packs each sheet of a long table; a thousand sheets of a few rows each are packed here.
  const beginSheet = (name: string, isShort = false) => {
    endSheet();
    wanted = name;
    names.push(sheetName(name, taken));
    const path = `xl/worksheets/sheet${names.length}.xml`;
    sheet = isShort ? new ZipDeflate(path, { level: 3 }) : new PackedFile(path);
    packing.add(sheet);
    sheet.push(strToU8(sheetBegin(columns) + rowXml(titles, letters, 1)));
    onSheet = 1;
    return sheet;
  };
  try {
    let current: PackedFile | ZipDeflate | null = null;
    for await (const chunk of chunks) {
      const { rows: all, sheet: named } = 'rows' in chunk ? chunk : { rows: chunk, sheet: undefined };
      if (named !== undefined) current = beginSheet(named, true);
      current ??= beginSheet(title);
      for (let start = 0; start < all.length;) {
        if (onSheet === SHEET) current = beginSheet(wanted);
        const rows = all.slice(start, start + SHEET - onSheet);
        const begin = onSheet + 1;
        current.push(strToU8(rows.map((row, at) => rowXml(row, letters, begin + at)).join('')));
        start += rows.length;
        onSheet += rows.length;
      }
      yield* packing.take();
      if (current instanceof PackedFile) await current.caughtUp();
    }
    if (current === null) beginSheet(title);
    endSheet();
    for (const [path, text] of Object.entries(partsOf(names))) {
      const part = text.length > 500 ? new ZipDeflate(path) : new ZipPassThrough(path);
      packing.add(part);
      part.push(strToU8(text), true);
    }
    yield* packing.end();
  } finally {
    packing.stop();
  }
}
