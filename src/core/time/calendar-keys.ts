/** The keys of a calendar, as the WAI-ARIA practices have them for a grid of dates. */
import { DAY, weekday } from './zone';

/** The same date some months on; the month's last day where it has no such date. */
function addMonths(day: number, months: number): number {
  const date = new Date(day * DAY);
  const first = Date.UTC(date.getUTCFullYear(), date.getUTCMonth() + months, 1);
  const last = new Date(Date.UTC(date.getUTCFullYear(), date.getUTCMonth() + months + 1, 0)).getUTCDate();
  return first / DAY + Math.min(date.getUTCDate(), last) - 1;
}

/**
 * The day that a key leads to from another: arrows go by days and weeks, Home and End to the week's ends, Page Up
 * and Page Down by months. Null for a key that leads nowhere.
 *
 * @example moveByKey(dayFromDate('2026-01-31')!, 'PageDown') // day number of 2026-02-28
 */
export function moveByKey(day: number, key: string): number | null {
  switch (key) {
    case 'ArrowLeft':
      return day - 1;
    case 'ArrowRight':
      return day + 1;
    case 'ArrowUp':
      return day - 7;
    case 'ArrowDown':
      return day + 7;
    case 'Home':
      return day - weekday(day);
    case 'End':
      return day - weekday(day) + 6;
    case 'PageUp':
      return addMonths(day, -1);
    case 'PageDown':
      return addMonths(day, 1);
    default:
      return null;
  }
}
