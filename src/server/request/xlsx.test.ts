import { buffer } from 'node:stream/consumers';
import { Readable } from 'node:stream';
import ExcelJS from 'exceljs';
import { describe, expect, it } from 'vitest';
import type { Cell } from '@/core/imports/cells';
import { workbook } from './xlsx';

async function readBack(title: string, columns: string[], chunks: Iterable<Cell[][]>) {
  const book = new ExcelJS.Workbook();
  await book.xlsx.load((await buffer(Readable.from(workbook(title, columns, chunks)))) as never);
  return book;
}

const valuesOf = (sheet: ExcelJS.Worksheet) =>
  Array.from({ length: sheet.rowCount }, (_, row) =>
    Array.from({ length: sheet.columnCount }, (_, column) => sheet.getRow(row + 1).getCell(column + 1).value),
  );

describe('a workbook', () => {
  it('holds what it was given, its heading bold and in sight', async () => {
    const book = await readBack(
      'Learners',
      ['name', 'days', 'there'],
      [[['Ines Aldous', 3.5, true]], [['  ', 0, null]]],
    );
    const sheet = book.getWorksheet('Learners')!;
    expect(valuesOf(sheet)).toEqual([
      ['name', 'days', 'there'],
      ['Ines Aldous', 3.5, true],
      ['  ', 0, null],
    ]);
    expect(sheet.getCell('A1').font).toMatchObject({ bold: true });
    expect(sheet.views[0]).toMatchObject({ state: 'frozen', ySplit: 1 });
  });

  it('is whole whatever its texts are made of, and runs none of them', async () => {
    const texts = [
      '<b>&"\'',
      '=1+1',
      'Ŝ\u{1F6F6} אב',
      'a\u0000b\u000bc\ufffe',
      'a\ud800b',
      'line\nline',
      '+44 1632 960000',
    ];
    const sheet = (await readBack('T', ['text'], [texts.map((text) => [text])])).getWorksheet('T')!;
    expect(valuesOf(sheet).map(([text]) => text)).toEqual([
      'text',
      '<b>&"\'',
      "'=1+1",
      'Ŝ\u{1F6F6} אב',
      'abc',
      'ab',
      'line\nline',
      "'+44 1632 960000",
    ]);
  });

  it('has its heading even when it is empty, and no number that is none', async () => {
    expect(valuesOf((await readBack('T', ['a', 'b'], [])).getWorksheet('T')!)).toEqual([['a', 'b']]);
    const sheet = (await readBack('T', ['a'], [[[Number.NaN], [Infinity]]])).getWorksheet('T')!;
    expect(sheet.getCell('A2').value).toBeNull();
  });

  it('goes on on another sheet where one is full', async () => {
    const chunk = Array.from({ length: 65_536 }, (_, row): Cell[] => [row]);
    let bytes = 0;
    const all: Buffer[] = [];
    for await (const part of workbook(
      'Log',
      ['n'],
      Array.from({ length: 17 }, () => chunk),
    )) {
      bytes += part.length;
      all.push(Buffer.from(part));
    }
    expect(bytes).toBeGreaterThan(1_000_000);
    const names = Buffer.concat(all).toString('latin1');
    expect(names).toContain('xl/worksheets/sheet2.xml');
    expect(names).not.toContain('xl/worksheets/sheet3.xml');
  }, 60_000);

  it('stops when nobody reads on', async () => {
    let read = 0;
    const chunks = function* () {
      for (;;) {
        read += 1;
        yield Array.from({ length: 1000 }, (_, row): Cell[] => [`row ${row} of chunk ${read}`]);
      }
    };
    for await (const part of workbook('T', ['a'], chunks())) if (part.length > 0) break;
    const then = read;
    await new Promise((resolve) => setTimeout(resolve, 50));
    expect(read).toBe(then);
  });
});
