/** Reading ISO 8601 times from files and requests. */
import { DAY, HOUR, MINUTE, dayFromDate, fromWallClock, offsetAt } from './zone';

const ISO =
  /^(\d{4}-\d{2}-\d{2})(?:[T ](\d{2}):(\d{2})(?::(\d{2})(?:[.,](\d{1,9}))?)?\s*(Z|z|[+-]\d{2}(?::?\d{2})?)?)?$/;

/** Dates repeat from row to row; their day numbers are worked out once. */
const days = new Map<string, number | null>();

function cachedDay(date: string): number | null {
  let day = days.get(date);
  if (day === undefined) {
    if (days.size > 50_000) days.clear();
    days.set(date, (day = dayFromDate(date)));
  }
  return day;
}

function digits(text: string, from: number, count: number): number {
  let value = 0;
  for (let i = from; i < from + count; i += 1) {
    const digit = text.charCodeAt(i) - 48;
    if (digit < 0 || digit > 9) return NaN;
    value = value * 10 + digit;
  }
  return value;
}

/** A time of day with no offset behind it. */
const WITHOUT_OFFSET = /^\d{4}-\d{2}-\d{2}[T ][\d:.,]+$/;

/**
 * Is this a time that the clocks of a zone left out, when they were put forward? Nobody can have
 * done anything then, so its zone is likely another. A bare date never is.
 * @example isSkipped('2026-03-29T01:30', 'Europe/Dublin') // true
 */
export function isSkipped(text: string, zone: string): boolean {
  if (!WITHOUT_OFFSET.test(text)) return false;
  const wall = parseInstant(text, 'UTC');
  if (wall === null) return false;
  const at = fromWallClock(wall, zone);
  return at + offsetAt(at, zone) !== wall;
}

/**
 * Epoch milliseconds of an ISO 8601 time, or null when it is none.
 * A time without an offset, or a bare date (midnight), is in `zone`.
 * 24:00 and leap seconds are not taken.
 */
export function parseInstant(text: string, zone: string): number | null {
  // The form nearly every row has, read without a regular expression.
  if (text.length === 20 && text[19] === 'Z' && text[10] === 'T') {
    const day = cachedDay(text.slice(0, 10));
    const hour = digits(text, 11, 2);
    const minute = digits(text, 14, 2);
    const second = digits(text, 17, 2);
    if (day !== null && text[13] === ':' && text[16] === ':' && hour < 24 && minute < 60 && second < 60) {
      return day * DAY + hour * HOUR + minute * MINUTE + second * 1000;
    }
    return null;
  }
  const match = ISO.exec(text.trim());
  if (!match) return null;
  const day = cachedDay(match[1]);
  const hour = Number(match[2] ?? 0);
  const minute = Number(match[3] ?? 0);
  const second = Number(match[4] ?? 0);
  if (day === null || hour > 23 || minute > 59 || second > 59) return null;
  const fraction = match[5] ? Math.floor(Number(`0.${match[5]}`) * 1000) : 0;
  const wall = day * DAY + hour * HOUR + minute * MINUTE + second * 1000 + fraction;
  const offset = match[6];
  if (!offset) return fromWallClock(wall, zone);
  if (offset === 'Z' || offset === 'z') return wall;
  const sign = offset[0] === '-' ? -1 : 1;
  const hours = Number(offset.slice(1, 3));
  const minutes = Number(offset.slice(3).replace(':', '') || 0);
  if (hours > 15 || minutes > 59) return null;
  return wall - sign * (hours * HOUR + minutes * MINUTE);
}
