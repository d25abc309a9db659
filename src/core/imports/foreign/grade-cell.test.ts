import { describe, expect, it } from 'vitest';
import { readGradeCell, readItemHeading } from './grade-cell';

describe('cells of a gradebook', () => {
  it.each([
    ['17/20', { is: 'points', points: 17, of: 20 }],
    ['17,5 / 20', { is: 'points', points: 17.5, of: 20 }],
    ['13,8', { is: 'points', points: 13.8, of: null }],
    ['13.8', { is: 'points', points: 13.8, of: null }],
    ['0', { is: 'points', points: 0, of: null }],
    ['1.234,5', { is: 'points', points: 1234.5, of: null }],
    ['1,234.5', { is: 'points', points: 1234.5, of: null }],
    ['85 %', { is: 'percent', percent: 85 }],
    ['85,5%', { is: 'percent', percent: 85.5 }],
  ])('%s', (text, cell) => expect(readGradeCell(text)).toEqual(cell));

  it.each([
    ['', 'nothing'],
    ['–', 'nothing'],
    ['-', 'nothing'],
    ['missing', 'missing'],
    ['Fehlt', 'missing'],
    ['Excused', 'excused'],
    ['✓', 'done'],
    ['Terminé', 'done'],
    ['abgeschlossen', 'done'],
    ['X', 'done'],
    ['✗', 'not done'],
    ['Incomplete', 'not done'],
    ['nicht erledigt', 'not done'],
    ['see me', 'unreadable'],
    ['17//20', 'unreadable'],
  ])('“%s” is %s', (text, is) => expect(readGradeCell(text).is).toBe(is));

  it('no text makes it hang or throw', () => {
    for (const text of ['<', '"', '1', ' ', '/', '–'].map((one) => one.repeat(100_000)))
      expect(typeof readGradeCell(text).is).toBe('string');
  });
});

describe('headings of items', () => {
  it.each([
    ['Knots (20)', 'Knots', 20],
    ['Knots /20', 'Knots', 20],
    ['Knots (max 20 points)', 'Knots', 20],
    ['Knots (12,5)', 'Knots', 12.5],
    ['Knots', 'Knots', null],
    ['Quiz 1', 'Quiz 1', null],
    ['Bends (part 2)', 'Bends (part 2)', null],
    ['Either/Or', 'Either/Or', null],
  ])('%s', (text, title, points) => expect(readItemHeading(text)).toEqual({ title, points }));
});
