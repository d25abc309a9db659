import { expect, it } from 'vitest';
import { moveByKey } from './calendar-keys';
import { dateOfDay, dayFromDate } from './zone';

it.each([
  ['2026-11-24', 'ArrowDown', '2026-12-01'],
  ['2026-11-24', 'ArrowUp', '2026-11-17'],
  ['2026-11-30', 'ArrowRight', '2026-12-01'],
  ['2026-01-01', 'ArrowLeft', '2025-12-31'],
  ['2026-11-24', 'Home', '2026-11-23'],
  ['2026-11-24', 'End', '2026-11-29'],
  ['2026-01-31', 'PageDown', '2026-02-28'],
  ['2028-01-31', 'PageDown', '2028-02-29'],
  ['2026-12-15', 'PageDown', '2027-01-15'],
  ['2026-03-31', 'PageUp', '2026-02-28'],
  ['2026-01-05', 'PageUp', '2025-12-05'],
])('from %s %s leads to %s', (from, key, to) => {
  expect(dateOfDay(moveByKey(dayFromDate(from)!, key)!)).toBe(to);
});

it('other keys lead nowhere', () => expect(moveByKey(20_000, 'Enter')).toBeNull());
