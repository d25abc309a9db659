/** Times, days and lengths as the screens and sentences say them. */
import { DAY, HOUR, MINUTE, dayOf, offsetAt, weekday } from './zone';

const WEEKDAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'];
const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];

/** "Thu 12 Nov"; with the year when it is not that of `today`. */
export function sayDay(day: number, today?: number): string {
  const date = new Date(day * DAY);
  const year = date.getUTCFullYear();
  const tail = today !== undefined && new Date(today * DAY).getUTCFullYear() !== year ? ` ${year}` : '';
  return `${WEEKDAYS[weekday(day)]} ${date.getUTCDate()} ${MONTHS[date.getUTCMonth()]}${tail}`;
}

/** "21:40" in the zone. */
export function sayTime(at: number, zone: string): string {
  return new Date(at + offsetAt(at, zone)).toISOString().slice(11, 16);
}

/** "Thu 12 Nov, 21:40" in the zone. */
export function sayInstant(at: number, zone: string, now?: number): string {
  return `${sayDay(dayOf(at, zone), now === undefined ? undefined : dayOf(now, zone))}, ${sayTime(at, zone)}`;
}

/** "today", "yesterday", "9 days ago": by calendar days in the zone. */
export function sayDaysAgo(at: number, now: number, zone: string): string {
  const days = dayOf(now, zone) - dayOf(at, zone);
  if (days <= 0) return 'today';
  return days === 1 ? 'yesterday' : `${days} days ago`;
}

/** "14 min", "1 h 10 min", "under 1 min": rounded to whole minutes. */
export function sayLength(ms: number): string {
  const minutes = Math.round(ms / MINUTE);
  if (minutes < 1) return ms > 0 ? 'under 1 min' : '0 min';
  const hours = Math.floor((minutes * MINUTE) / HOUR);
  const rest = minutes - hours * 60;
  if (hours === 0) return `${minutes} min`;
  return rest === 0 ? `${hours} h` : `${hours} h ${rest} min`;
}

const plurals = new Intl.PluralRules('en-GB');
const lists = new Intl.ListFormat('en-GB');

/** The word that goes with a number. @example plural(1, 'is', 'are') // 'is' */
export function plural(count: number, one: string, many = `${one}s`): string {
  return plurals.select(count) === 'one' ? one : many;
}

/** "1 day", "3 days". */
export function sayCount(count: number, one: string, many = `${one}s`): string {
  return `${count.toLocaleString('en-GB')} ${plural(count, one, many)}`;
}

/** "quiz", "quiz and page", "quiz, page and video". */
export function sayList(words: readonly string[]): string {
  return lists.format(words);
}

/** "1,234", or "about 1,200" for an estimate, to two digits. */
export function sayAbout(count: number, about: boolean): string {
  if (!about) return count.toLocaleString('en-GB');
  const scale = 10 ** Math.max(0, Math.floor(Math.log10(Math.max(1, count))) - 1);
  return `about ${(Math.round(count / scale) * scale).toLocaleString('en-GB')}`;
}
