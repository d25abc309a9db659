/** When a report is sent: on days of the week or of the month, at a time of day in the programme's zone. */
import { DAY, MINUTE, dayOf, fromWallClock, weekday } from '../time/zone';
import { sayList } from '../time/words';

export interface Rhythm {
  /** Days of the week (0 is Monday) or of the month (1 to 31; a month without that day has it on its last). */
  by: 'week' | 'month';
  on: readonly number[];
  /** Minutes after midnight. */
  minute: number;
}

export const WEEKDAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'] as const;

/** The days of a month that a day is: its number, and on the month's last day every number after it too. */
function isOfMonth(day: number, on: readonly number[]): boolean {
  const date = new Date(day * DAY);
  const number = date.getUTCDate();
  const isLast = new Date((day + 1) * DAY).getUTCDate() === 1;
  return on.includes(number) || (isLast && on.some((one) => one > number));
}

/**
 * The next time after an instant. An hour that the clocks pass over is the one after it; one that comes twice is the
 * first of the two, so that nothing is sent twice.
 *
 * @example nextSending({ by: 'week', on: [0], minute: 420 }, now, 'Europe/Dublin') // next Monday, 07:00
 */
export function nextSending({ by, on, minute }: Rhythm, after: number, zone: string): number {
  const today = dayOf(after, zone);
  for (let day = today; day <= today + 62; day += 1) {
    if (by === 'week' ? !on.includes(weekday(day)) : !isOfMonth(day, on)) continue;
    const at = fromWallClock(day * DAY + minute * MINUTE, zone);
    if (at > after) return at;
  }
  throw new Error('A rhythm has a day');
}

const ordinals = new Intl.PluralRules('en', { type: 'ordinal' });
const ENDINGS = { one: 'st', two: 'nd', few: 'rd', other: 'th', zero: 'th', many: 'th' };

/** "Mondays and Thursdays at 07:00", "the 1st of each month at 07:00". */
export function sayRhythm({ by, on, minute }: Rhythm): string {
  const days = [...on].sort((a, b) => a - b);
  const at = `${String(Math.floor(minute / 60)).padStart(2, '0')}:${String(minute % 60).padStart(2, '0')}`;
  if (by === 'week')
    return `${days.length === 7 ? 'every day' : sayList(days.map((day) => `${WEEKDAYS[day]}s`))} at ${at}`;
  return `the ${sayList(days.map((day) => `${day}${ENDINGS[ordinals.select(day)]}`))} of each month at ${at}`;
}
