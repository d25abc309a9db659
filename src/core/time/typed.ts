/** Days and times as people type them. */
import { DAY, dayFromDate, weekday } from './zone';

const MONTH_NAMES = [
  'january',
  'february',
  'march',
  'april',
  'may',
  'june',
  'july',
  'august',
  'september',
  'october',
  'november',
  'december',
];
const WEEKDAY_NAMES = ['monday', 'tuesday', 'wednesday', 'thursday', 'friday', 'saturday', 'sunday'];
const NAMED: Record<string, number> = { today: 0, tomorrow: 1, yesterday: -1 };

/** The day of a year, month and date; null where the month has no such date. */
function dayAt(year: number, month: number, date: number): number | null {
  return dayFromDate(`${year}-${String(month).padStart(2, '0')}-${String(date).padStart(2, '0')}`);
}

/** A date without a year is the one nearest to today: in January, "20 Dec" is last month's. */
function nearest(month: number, date: number, today: number): number | null {
  const year = new Date(today * DAY).getUTCFullYear();
  const days = [year - 1, year, year + 1]
    .map((one) => dayAt(one, month, date))
    .filter((day): day is number => day !== null);
  return days.sort((a, b) => Math.abs(a - today) - Math.abs(b - today))[0] ?? null;
}

function fullYear(text: string): number {
  return text.length === 2 ? 2000 + Number(text) : Number(text);
}

/** 1 for January, by the month's name or its first three letters or more; null for no month. */
function monthOf(word: string): number | null {
  const at = MONTH_NAMES.findIndex((name) => name.startsWith(word));
  return at < 0 ? null : at + 1;
}

/**
 * The day that somebody typed, as a day number; null for what names none.
 *
 * It reads 2026-11-24, 24/11/2026, 24.11.26, 24/11, "24 Nov", "24 November 2026", "Tue 24 Nov", today, tomorrow,
 * yesterday, a weekday (the next one, today included), "+3", "in 3 days", "in 2 weeks", "3 days ago". The day stands
 * before the month, and whoever types sees it said in words at once.
 *
 * @example readTypedDay('fri', dayFromDate('2026-11-24')!) // day number of 2026-11-27
 */
export function readTypedDay(text: string, today: number): number | null {
  const typed = text.trim().toLowerCase().replace(/,/g, ' ').replace(/\s+/g, ' ');
  if (Object.hasOwn(NAMED, typed)) return today + NAMED[typed];
  const iso = dayFromDate(typed);
  if (iso !== null) return iso;
  const from = /^(?:in |\+ ?)(\d{1,3})(?: ?(days?|d|weeks?|w))?$/.exec(typed);
  if (from) return today + Number(from[1]) * (from[2]?.startsWith('w') ? 7 : 1);
  const ago = /^(\d{1,3}) ?(days?|d|weeks?|w) ago$/.exec(typed);
  if (ago) return today - Number(ago[1]) * (ago[2].startsWith('w') ? 7 : 1);
  const wanted = WEEKDAY_NAMES.findIndex((name) => typed.length >= 2 && name.startsWith(typed));
  if (wanted >= 0) return today + ((wanted - weekday(today) + 7) % 7);
  const numerals = /^(\d{1,2})[./-](\d{1,2})(?:[./-](\d{2}|\d{4})?)?$/.exec(typed);
  if (numerals) {
    const [, date, month, year] = numerals;
    if (year === undefined) return nearest(Number(month), Number(date), today);
    return dayAt(fullYear(year), Number(month), Number(date));
  }
  const words = /^(?:[a-z]{2,9} )?(\d{1,2})(?:st|nd|rd|th)?\.? ?([a-z]{3,9})(?: (\d{2}|\d{4}))?$/.exec(typed);
  const month = words && monthOf(words[2]);
  if (!words || !month) return null;
  if (words[3] === undefined) return nearest(month, Number(words[1]), today);
  return dayAt(fullYear(words[3]), month, Number(words[1]));
}

/**
 * The time of day that somebody typed, as HH:MM; null for what names none.
 *
 * @example readTypedTime('9.30') // '09:30'
 * @example readTypedTime('6 pm') // '18:00'
 */
export function readTypedTime(text: string): string | null {
  const match = /^(\d{1,2})(?:[:.h ]?(\d{2}))?\s*([ap])?\.?(?:m\.?)?$/i.exec(text.trim());
  if (!match) return null;
  const [, hour, minute = '00', half] = match;
  if (half && (Number(hour) > 12 || Number(hour) === 0)) return null;
  const hours = half ? (Number(hour) % 12) + (half.toLowerCase() === 'p' ? 12 : 0) : Number(hour);
  if (hours > 23 || Number(minute) > 59) return null;
  return `${String(hours).padStart(2, '0')}:${minute}`;
}
