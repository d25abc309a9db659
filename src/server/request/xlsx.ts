/**
 * Workbooks (ECMA-376) as a stream of bytes: rows go in by chunks and come out packed, so that a list of any
 * length takes little memory. Packing is done by a thread of its own.
 */
import { ZipDeflate, ZipPassThrough, strToU8 } from 'fflate';
import { safeCell, type Cell } from '@/core/imports/cells';
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

function cellXml(cell: Cell, place: string, style: string): string {
  if (cell === null || (typeof cell === 'number' && !Number.isFinite(cell))) return '';
  if (typeof cell === 'boolean') return `<c r="${place}" t="b"><v>${cell ? 1 : 0}</v></c>`;
  if (typeof cell === 'number') return `<c r="${place}"><v>${cell}</v></c>`;
  return `<c r="${place}"${style} t="inlineStr"><is><t xml:space="preserve">${escaped(safeCell(cell))}</t></is></c>`;
}

/** A row of a sheet, the heading being the first. */
function rowXml(cells: readonly Cell[], letters: readonly string[], row: number): string {
  const style = row === 1 ? ' s="1"' : '';
  return `<row r="${row}">${cells.map((cell, at) => cellXml(cell, `${letters[at]}${row}`, style)).join('')}</row>`;
}

const SHEET_BEGIN = `${HEAD}<worksheet xmlns="${MAIN}"><sheetViews><sheetView workbookViewId="0"><pane ySplit="1" topLeftCell="A2" activePane="bottomLeft" state="frozen"/></sheetView></sheetViews><sheetData>`;
const SHEET_END = '</sheetData></worksheet>';
const STYLES = `${HEAD}<styleSheet xmlns="${MAIN}"><fonts count="2"><font/><font><b/></font></fonts><fills count="1"><fill/></fills><borders count="1"><border/></borders><cellStyleXfs count="1"><xf/></cellStyleXfs><cellXfs count="2"><xf fontId="0"/><xf fontId="1" applyFont="1"/></cellXfs></styleSheet>`;

function relations(list: readonly [type: string, target: string][]): string {
  const each = list.map(([type, target], at) => `<Relationship Id="r${at + 1}" Type="${type}" Target="${target}"/>`);
  return `${HEAD}<Relationships xmlns="${PACKAGE}/relationships">${each.join('')}</Relationships>`;
}

/** The parts beside the sheets. */
function partsOf(title: string, sheets: number): Record<string, string> {
  const numbers = Array.from({ length: sheets }, (_, index) => index + 1);
  const name = (number: number) => escaped(number === 1 ? title : `${title} ${number}`);
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

/**
 * A workbook of one table, on as many sheets as its rows need; the heading is bold and stays in sight.
 * Texts are made harmless as in CSV. Whoever stops reading stops the packing.
 *
 * @param chunks rows, some at a time
 * @example Readable.from(workbook('Learners', ['name'], [[['Ines Aldous']]]))
 */
export async function* workbook(
  title: string,
  columns: readonly string[],
  chunks: AsyncIterable<readonly (readonly Cell[])[]> | Iterable<readonly (readonly Cell[])[]>,
): AsyncGenerator<Uint8Array> {
  const packing = new Packing();
  const letters = columns.map((_, column) => lettersOf(column));
  let [sheets, onSheet] = [0, SHEET];
  let sheet: PackedFile | null = null;
  const beginSheet = () => {
    sheet?.push(strToU8(SHEET_END), true);
    sheet = new PackedFile(`xl/worksheets/sheet${(sheets += 1)}.xml`);
    packing.add(sheet);
    sheet.push(strToU8(SHEET_BEGIN + rowXml(columns, letters, 1)));
    onSheet = 1;
    return sheet;
  };
  try {
    let current = beginSheet();
    for await (const chunk of chunks) {
      for (let start = 0; start < chunk.length;) {
        if (onSheet === SHEET) current = beginSheet();
        const rows = chunk.slice(start, start + SHEET - onSheet);
        const begin = onSheet + 1;
        current.push(strToU8(rows.map((row, at) => rowXml(row, letters, begin + at)).join('')));
        start += rows.length;
        onSheet += rows.length;
      }
      yield* packing.take();
      await current.caughtUp();
    }
    current.push(strToU8(SHEET_END), true);
    for (const [path, text] of Object.entries(partsOf(title, sheets))) {
      const part = text.length > 500 ? new ZipDeflate(path) : new ZipPassThrough(path);
      packing.add(part);
      part.push(strToU8(text), true);
    }
    yield* packing.end();
  } finally {
    packing.stop();
  }
}
