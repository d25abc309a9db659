import { expect, it } from 'vitest';
import { dayFromDate } from './zone';
import { sayAbout, sayCount, sayDay, sayDaysAgo, sayInstant, sayLength } from './words';

const now = Date.parse('2026-11-24T09:10:00Z');

it('says times in the zone, and the year only when it is another', () => {
  expect(sayInstant(Date.parse('2026-07-09T20:40:00Z'), 'Europe/Dublin', now)).toBe('Thu 9 Jul, 21:40');
  expect(sayDay(dayFromDate('2025-11-12')!, dayFromDate('2026-11-24')!)).toBe('Wed 12 Nov 2025');
});

it('counts days ago by calendar days, not by 24 hours', () => {
  expect(sayDaysAgo(Date.parse('2026-11-23T23:50:00Z'), now, 'UTC')).toBe('yesterday');
  expect(sayDaysAgo(Date.parse('2026-11-24T00:01:00Z'), now, 'UTC')).toBe('today');
  expect(sayDaysAgo(Date.parse('2026-11-15T09:00:00Z'), now, 'UTC')).toBe('9 days ago');
});

it.each([
  [0, '0 min'],
  [20_000, 'under 1 min'],
  [14 * 60_000, '14 min'],
  [60 * 60_000, '1 h'],
  [70 * 60_000, '1 h 10 min'],
])('says a length of %d ms', (ms, says) => expect(sayLength(ms)).toBe(says));

it('says counts with the right word', () => {
  expect(sayCount(1, 'day')).toBe('1 day');
  expect(sayCount(1200, 'day')).toBe('1,200 days');
});

it('rounds an estimate to two digits and says that it is one', () => {
  expect(sayAbout(12_345, false)).toBe('12,345');
  expect(sayAbout(12_345, true)).toBe('about 12,000');
  expect(sayAbout(7, true)).toBe('about 7');
  expect(sayAbout(0, true)).toBe('about 0');
});
