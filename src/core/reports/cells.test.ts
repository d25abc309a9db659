import { describe, expect, it } from 'vitest';
import { jsonCell, plainCellOf, sayCell, titleWithUnit, type CellTable } from './cells';

const at = { now: Date.parse('2026-11-24T09:10:00Z'), zone: 'Europe/Dublin' };
const DAY = 20_780;
const table: CellTable = {
  heads: [
    { name: 'item', title: 'Item', kind: 'text' },
    { name: 'on', title: 'Done on', kind: 'day' },
  ],
  rows: [
    ['Stone', DAY],
    ['Quiz', null],
  ],
};

describe('a cell', () => {
  it.each([
    ['share', 0.64, '64 %'],
    ['percent', 63.07, '63.1 %'],
    ['minutes', 65, '1 h 5 min'],
    ['days', 1, '1 day'],
    ['count', 12_000, '12,000'],
    ['number', 1.7142, '1.71'],
    ['instant', Date.parse('2026-07-01T18:30:00Z'), 'Wed 1 Jul, 19:30'],
    ['day', DAY, 'Mon 23 Nov'],
    ['flag', true, 'yes'],
    ['flag', false, 'no'],
    ['texts', ['DRY', 'NET'], 'DRY, NET'],
    ['texts', [], '–'],
    ['table', table, 'Stone · Mon 23 Nov; Quiz'],
    ['text', '', '–'],
    ['text', null, '–'],
  ] as const)('of the kind %s says %o as %s', (kind, value, says) => {
    expect(sayCell(kind, value, at)).toBe(says);
  });

  it('says how far somebody is by the last week that has begun', () => {
    const weeks = [
      { day: DAY, planned: 2, done: 1 },
      { day: DAY + 7, planned: 4, done: null },
    ];
    expect(sayCell('pace', weeks, at)).toBe('1 done, 2 planned');
    expect(sayCell('pace', [], at)).toBe('–');
  });

  it('is read by programs in ISO 8601, its rows as objects', () => {
    expect(jsonCell('instant', Date.parse('2026-11-24T09:10:00Z'), at)).toBe('2026-11-24T09:10:00Z');
    expect(jsonCell('day', DAY, at)).toBe('2026-11-23');
    expect(jsonCell('share', 1 / 3, at)).toBe(0.33333);
    expect(jsonCell('table', table, at)).toEqual([
      { item: 'Stone', on: '2026-11-23' },
      { item: 'Quiz', on: null },
    ]);
  });

  it('is a number or a text on a line, and never a 0 for what is not known', () => {
    expect(plainCellOf('count', 0, at)).toBe(0);
    expect(plainCellOf('count', null, at)).toBeNull();
    expect(plainCellOf('texts', ['a', 'b'], at)).toBe('a, b');
    expect(plainCellOf('table', { heads: [], rows: [] }, at)).toBe('');
  });

  it('has its unit in its head where the figure alone does not say it', () => {
    expect(titleWithUnit({ title: 'Time online', kind: 'minutes' })).toBe('Time online (minutes)');
    expect(titleWithUnit({ title: 'Progress', kind: 'share' })).toBe('Progress');
  });
});
