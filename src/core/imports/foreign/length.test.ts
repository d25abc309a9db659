import { describe, expect, it } from 'vitest';
import { readAge, readLength } from './length';

const MINUTE = 60_000;
const HOUR = 60 * MINUTE;
const DAY = 24 * HOUR;

describe('lengths of time', () => {
  it.each([
    ['1 h 05 min 20 s', HOUR + 5 * MINUTE + 20_000],
    ['1 h 5 min', HOUR + 5 * MINUTE],
    ['51 min 05 s', 51 * MINUTE + 5000],
    ['4 min 00 s', 4 * MINUTE],
    ['01:05:00', HOUR + 5 * MINUTE],
    ['34:08', 34 * MINUTE + 8000],
    ['1h5m', HOUR + 5 * MINUTE],
    ['1,5 Stunden', 1.5 * HOUR],
    ['1.5 hours', 1.5 * HOUR],
    ['5 Tage 12 Stunden 24 Minuten', 5 * DAY + 12 * HOUR + 24 * MINUTE],
    ['15 Tage 37 Minuten', 15 * DAY + 37 * MINUTE],
    ['2 hours, 3 minutes and 4 seconds', 2 * HOUR + 3 * MINUTE + 4000],
    ['3 años 2 días', 3 * 365 * DAY + 2 * DAY],
  ])('%s', (text, ms) => expect(readLength(text)).toBe(ms));

  it.each(['', 'soon', '12', '5 min 3 h', '5 min 3 min', '25:61', '-5 min', '3 apples', '14/10/2026', '1 h x'])(
    '“%s” is none',
    (text) => expect(readLength(text)).toBeNull(),
  );

  it('a bare number is of the unit that the heading names', () => {
    expect(readLength('51', MINUTE)).toBe(51 * MINUTE);
    expect(readLength('51,5', MINUTE)).toBe(51.5 * MINUTE);
    expect(readLength('0', MINUTE)).toBe(0);
    expect(readLength('-1', MINUTE)).toBeNull();
  });
});

describe('how long ago', () => {
  it.each([
    ['3 days 4 hours', 3 * DAY + 4 * HOUR],
    ['3 days ago', 3 * DAY],
    ['vor 2 Tagen', 2 * DAY],
    ['il y a 5 jours 2 heures', 5 * DAY + 2 * HOUR],
    ['hace 3 días', 3 * DAY],
    ['16 Stunden 29 Minuten', 16 * HOUR + 29 * MINUTE],
    ['now', 0],
    ['Never', 'never'],
    ['Nie', 'never'],
    ['Jamais', 'never'],
  ] as const)('%s', (text, age) => expect(readAge(text)).toBe(age));

  it.each(['Tue 24 Nov', '2026-11-24', '12:30', '', 'yes'])('“%s” is none', (text) => expect(readAge(text)).toBeNull());
});
