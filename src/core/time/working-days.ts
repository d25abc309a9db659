import { weekday } from './zone';

/**
 * The day so many working days, Monday to Friday, after another.
 *
 * @example from a Thursday, 2 days on is Monday; from a Saturday, Tuesday
 */
export function addWorkingDays(day: number, count: number): number {
  let at = day;
  for (let left = count; left > 0;) {
    at += 1;
    if (weekday(at) < 5) left -= 1;
  }
  return at;
}
