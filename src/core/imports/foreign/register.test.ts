import { describe, expect, it } from 'vitest';
import { areMarks, dateInHeading, readMark } from './register';

describe('a register', () => {
  it.each([
    ['28/09/2026', '28/09/2026'],
    ['Session 3 (12/10/2026 18:30)', '12/10/2026 18:30'],
    ['2026-10-12', '2026-10-12'],
    ['Mon 28 September 2026', 'Mon 28 September 2026'],
    ['Week 3', null],
    ['Knots (20)', null],
    ['Report 1/20', null],
  ])('%s holds the date %s', (heading, date) => expect(dateInHeading(heading)).toBe(date));

  it.each([
    ['P', 'present'],
    ['✓', 'present'],
    ['1', 'present'],
    ['Fehlt', 'absent'],
    ['0', 'absent'],
    ['Retard', 'late'],
    ['usprawiedliwiony', 'excused'],
    ['–', ''],
    ['', ''],
    ['7', null],
    ['rang on Tuesday', null],
  ])('%s is the mark %s', (cell, mark) => expect(readMark(cell)).toBe(mark));

  it('is none where an A may be there or absent, or where numbers stand under dates', () => {
    expect(areMarks(['A', 'A', 'L'], ['A', 'A', 'L', 'P'])).toBe(true);
    expect(areMarks(['A', 'A', 'F'], ['A', 'A', 'F'])).toBe(false);
    expect(areMarks(['7', '8', '1'], ['7', '8', '1'])).toBe(false);
    expect(areMarks(['', '–'], [])).toBe(false);
  });
});
