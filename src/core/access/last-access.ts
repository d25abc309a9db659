import { dayOf } from '../time/zone';

/**
 * Whole calendar days from the day of last access to today: 0 = today, null = never.
 * An event that a source's fast clock puts ahead of now counts as today.
 */
export function daysQuiet(lastAccess: number | null, now: number, zone: string): number | null {
  if (lastAccess === null) return null;
  return Math.max(0, dayOf(now, zone) - dayOf(lastAccess, zone));
}
