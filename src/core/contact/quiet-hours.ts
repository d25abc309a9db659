import { DAY, HOUR, dayOf, fromWallClock, offsetAt } from '../time/zone';

/** Nothing is sent from this hour of the learner's evening … */
const QUIET_FROM = 21;
/** … to this hour of their morning. */
const QUIET_TO = 8;

/** When the quiet hours that an instant lies in end; null when it lies in none. */
export function quietUntil(at: number, zone: string): number | null {
  const day = dayOf(at, zone);
  const hour = Math.floor((((at + offsetAt(at, zone)) % DAY) + DAY) % DAY) / HOUR;
  if (hour >= QUIET_TO && hour < QUIET_FROM) return null;
  return fromWallClock((hour < QUIET_TO ? day : day + 1) * DAY + QUIET_TO * HOUR, zone);
}
