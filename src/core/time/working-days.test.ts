import { expect, it } from 'vitest';
import { addWorkingDays } from './working-days';
import { dateOfDay, dayFromDate } from './zone';

it.each([
  ['2026-11-23', 2, '2026-11-25'],
  ['2026-11-26', 2, '2026-11-30'],
  ['2026-11-27', 2, '2026-12-01'],
  ['2026-11-28', 2, '2026-12-01'],
  ['2026-11-29', 1, '2026-11-30'],
  ['2026-11-27', 0, '2026-11-27'],
])('from %s, %i working days on is %s', (from, count, to) =>
  expect(dateOfDay(addWorkingDays(dayFromDate(from)!, count))).toBe(to),
);
