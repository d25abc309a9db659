/** Workbooks as they are met, whole: what they hold beside their table is left alone, and no more of them is read than can be. */
import { strToU8, zipSync } from 'fflate';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { bringIn, testRuntime, type TestRuntime } from '../testing';

let runtime: TestRuntime;
beforeEach(async () => {
  runtime = await testRuntime();
});
afterEach(() => runtime.close());

const MAIN = 'http://schemas.openxmlformats.org/spreadsheetml/2006/main';
const RELATIONS = 'http://schemas.openxmlformats.org/officeDocument/2006/relationships';

/** A column's letters: A to Z, AA … */
const letters = (column: number): string =>
  (column >= 26 ? letters(Math.floor(column / 26) - 1) : '') + String.fromCharCode(65 + (column % 26));
const inline = (text: string) => `t="inlineStr"><is><t>${text}</t></is></c>`;

/** A workbook of one sheet, its rows as XML, with more parts beside. */
function workbook(rows: string, more: Record<string, string> = {}): Buffer {
  const parts = {
    'xl/workbook.xml': `<workbook xmlns="${MAIN}" xmlns:r="${RELATIONS}"><sheets><sheet name="One" sheetId="1" r:id="r1"/></sheets></workbook>`,
    'xl/_rels/workbook.xml.rels': `<Relationships><Relationship Id="r1" Type="${RELATIONS}/worksheet" Target="worksheets/sheet1.xml"/></Relationships>`,
    'xl/worksheets/sheet1.xml': `<worksheet xmlns="${MAIN}"><sheetData>${rows}</sheetData></worksheet>`,
    ...more,
  };
  return Buffer.from(zipSync(Object.fromEntries(Object.entries(parts).map(([name, text]) => [name, strToU8(text)]))));
}
const row = (number: number, cells: readonly string[]) =>
  `<row r="${number}">${cells.map((cell, at) => `<c r="${letters(at)}${number}" ${cell.startsWith('<') ? cell.slice(1) : inline(cell)}`).join('')}</row>`;
const take = (file: Buffer) =>
  bringIn(runtime, 'auto', file, {
    course: 'Ropes',
    create: 'yes',
    file_name: 'grades.xlsm',
    made_at: '2026-11-24T09:00:00Z',
  });

describe('a workbook', () => {
  it('with macros is its table alone', async () => {
    const rows = row(1, ['Name', 'Knots', 'Walls']) + row(2, ['Ines Marrow', '<><v>15</v></c>', '<><v>62</v></c>']);
    const run = await take(workbook(rows, { 'xl/vbaProject.bin': 'Sub AutoOpen()', 'customUI/x.xml': '<x/>' }));
    expect(run).toMatchObject({ kind: 'gradebook', accepted: 1, rejected: 0 });
  });

  it('has its shares in per cent, and of a formula what came of it', async () => {
    const styles = `<styleSheet xmlns="${MAIN}"><cellXfs count="2"><xf numFmtId="0"/><xf numFmtId="10"/></cellXfs></styleSheet>`;
    const rows =
      row(1, ['Name', 'Knots', 'Walls', 'Gaps']) +
      row(2, ['Ines Marrow', '<s="1"><v>0.85</v></c>', '<><f>A1*2</f><v>31</v></c>', '<><f>A1*2</f></c>']);
    expect(await take(workbook(rows, { 'xl/styles.xml': styles }))).toMatchObject({ kind: 'gradebook', accepted: 1 });
    const scores = await runtime.db('attempt').orderBy('id').select('score', 'points');
    expect(scores).toEqual([
      { score: 85, points: 100 },
      { score: 31, points: null },
    ]);
  });

  it('of 16,384 columns is read as far as columns go, and says so', async () => {
    const many = Array.from({ length: 16_384 }, (_, at) => (at === 0 ? 'Name' : `Item ${at}`));
    const marks = many.map((_, at) => (at === 0 ? 'Ines Marrow' : '<><v>1</v></c>'));
    const run = await take(workbook(row(1, many) + row(2, marks)));
    expect(run).toMatchObject({ kind: 'gradebook', state: 'done', accepted: 1 });
    expect(JSON.parse(run.notes)).toContain('Only the first 2,000 columns are read.');
    expect(await runtime.db('item')).toHaveLength(1999);
  });

  it('that is not whole in one of its parts is refused in words', async () => {
    await expect(take(workbook('<row r="1"><c r="A1" t="inlineStr"><is><t>Name'))).rejects.toThrow(/workbook/);
  });
});
