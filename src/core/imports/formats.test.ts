import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { csvLine, rawCsvLine, safeCell } from './cells';
import { CsvReader, delimiterOf } from './csv-reader';
import { encodingOf, sniffEncoding } from './encoding';
import { NotSuchAFile, checkRow, readHeading } from './heading';

function readAll(text: string, size = text.length || 1) {
  const reader = new CsvReader();
  const rows = [];
  for (let i = 0; i < text.length; i += size) rows.push(...reader.push(text.slice(i, i + size)));
  return [...rows, ...reader.finish()];
}

describe('reading rows', () => {
  it('counts physical lines over quoted line breaks and blank lines', () => {
    const rows = readAll('a,b\n1,"x\ny"\n\n3,z\n');
    expect(rows).toEqual([
      { line: 1, cells: ['a', 'b'] },
      { line: 2, cells: ['1', 'x\ny'] },
      { line: 5, cells: ['3', 'z'] },
    ]);
  });

  it.each([
    ['semicolons', 'a;b\r\n1;2\r\n'],
    ['tabs', 'a\tb\n1\t2'],
    ['old line ends', 'a,b\r1,2\r'],
    ['a mark at the start', '\uFEFFa,b\n1,2'],
  ])('takes %s', (_, text) => {
    expect(readAll(text).map((row) => row.cells)).toEqual([
      ['a', 'b'],
      ['1', '2'],
    ]);
  });

  it('takes the delimiter of the heading, not of quoted text', () => {
    expect(delimiterOf('"a,b,c,d";x;y')).toBe(';');
    expect(delimiterOf('one')).toBe(',');
  });

  it('gives up one line for a quotation mark that is never closed, and reads on', () => {
    const rows = readAll('a,b\n1,"x\n2,y\n3,z\n');
    expect(rows.map((row) => [row.line, row.broken !== undefined])).toEqual([
      [1, false],
      [2, true],
      [3, false],
      [4, false],
    ]);
    expect(rows[2].cells).toEqual(['2', 'y']);
  });

  it('reads the same however the text is cut', () => {
    const cell = fc.string({ unit: fc.constantFrom('a', 'é', ',', '"', '\n', ' ', ';', '𝄞'), maxLength: 6 });
    const table = fc.array(fc.array(cell, { minLength: 2, maxLength: 2 }), { minLength: 1, maxLength: 8 });
    fc.assert(
      fc.property(table, fc.integer({ min: 1, max: 9 }), (rows, size) => {
        const filled = [['h1', 'h2'], ...rows.map(([a, b]) => [`x${a}`, b])];
        const text = filled.map(rawCsvLine).join('');
        expect(readAll(text, size).map((row) => row.cells)).toEqual(filled);
      }),
    );
  });

  it('ends when there is nothing', () => {
    expect(readAll('')).toEqual([]);
    expect(readAll('\n\n')).toEqual([]);
  });
});

describe('encodings', () => {
  const utf16 = (text: string, big = false) => {
    const bytes = Buffer.from(text, 'utf16le');
    return big ? bytes.swap16() : bytes;
  };

  it('are told apart', () => {
    expect(encodingOf(Buffer.from('time,naïve'))).toBe('utf-8');
    expect(encodingOf(Buffer.from('time,na\xefve', 'latin1'))).toBe('windows-1252');
    expect(encodingOf(utf16('time,learner_id'))).toBe('utf-16le');
    expect(encodingOf(utf16('time,learner_id', true))).toBe('utf-16be');
    expect(encodingOf(utf16('\uFEFFtime'))).toBe('utf-16le');
    expect(sniffEncoding(Buffer.from('\uFEFFtime'))).toEqual({ encoding: 'utf-8', certain: true });
  });

  it('know what is no text', () => {
    expect(encodingOf(Buffer.from([0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10, 0, 1, 2, 3, 4, 5]))).toBe('binary');
  });

  it('do not mind a character cut at the end of a part', () => {
    const head = Buffer.from('time,é').subarray(0, 6);
    expect(encodingOf(head, true)).toBe('utf-8');
    expect(encodingOf(head)).toBe('windows-1252');
  });
});

describe('cells for spreadsheets', () => {
  it.each([
    ['=1+1', "'=1+1"],
    ['+44 1632 960001', "'+44 1632 960001"],
    ['@cmd', "'@cmd"],
    ['-x', "'-x"],
    ['\tx', "'\tx"],
    ['-12.5', '-12.5'],
    ['plain', 'plain'],
  ])('%j becomes %j', (text, safe) => expect(safeCell(text)).toBe(safe));

  it('are quoted where needed', () => {
    expect(csvLine(['a"b', 'c,d', null, 5, true])).toBe('"a""b","c,d",,5,true\r\n');
  });
});

describe('headings', () => {
  it('are found in any order and writing, and others are named', () => {
    const heading = readHeading('access-log', ['Action', 'TIME', 'colour', 'Learner ID', 'course']);
    expect(heading.columns.map(({ name, index }) => [name, index])).toEqual([
      ['action', 0],
      ['time', 1],
      ['learner_id', 3],
      ['course', 4],
    ]);
    expect(heading.unknown).toEqual(['colour']);
  });

  it('refuse a file with none, with a needed one missing, or one twice', () => {
    expect(() => readHeading('access-log', ['colour', 'size'])).toThrow(NotSuchAFile);
    expect(() => readHeading('access-log', ['time', 'course'])).toThrow('learner_id, action');
    expect(() => readHeading('roster', ['learner_id', 'learner_id', 'given_name', 'course'])).toThrow('stands twice');
  });
});

describe('rows', () => {
  const heading = readHeading('roster', ['learner_id', 'given_name', 'email', 'course', 'enrolled_on', 'status']);
  const check = (...cells: string[]) => checkRow(heading, cells);

  it('come trimmed when they are right', () => {
    expect(check(' L1 ', 'Ines', '', 'HAT', '2026-09-28', 'active').values).toMatchObject({
      learner_id: 'L1',
      email: '',
    });
  });

  it.each([
    [['L1', '', '', 'HAT', '', ''], 'given_name', 'is missing'],
    [['L1', 'I', 'nonsense', 'HAT', '', ''], 'email', 'is not an e-mail address'],
    [['L1', 'I', '', 'HAT', '2026-02-30', ''], 'enrolled_on', 'is not a date such as 2026-11-24'],
    [['L1', 'I', '', 'HAT', '', 'asleep'], 'status', 'is not one of active, withdrawn, completed'],
    [['x'.repeat(201), 'I', '', 'HAT', '', ''], 'learner_id', 'is longer than 200 characters'],
    [['L1', 'I', '', 'HAT', ''], 'status', 'the row has 5 cells, the heading 6'],
    [['L1', 'I', '', 'HAT', '', '', 'more'], '', 'the row has 7 cells, the heading 6'],
  ])('%j: %s %s', (cells, field, reason) => expect(check(...cells).fault).toEqual({ field, reason }));

  it('may have empty cells too many, and take back the mark of a rejects file', () => {
    expect(check('L1', 'I', '', 'HAT', '', '', '', '').fault).toBeNull();
    expect(check('L1', "'=Ines", '', 'HAT', '', '').values?.given_name).toBe('=Ines');
  });
});
