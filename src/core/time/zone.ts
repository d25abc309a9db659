/**
 * Days and wall-clock times in a named time zone.
 *
 * Instants are epoch milliseconds (UTC). A *day* is an integer: the number of
 * calendar days since 1970-01-01 in the zone, so subtraction counts days whatever
 * the length of the ones between (daylight-saving days have 23 and 25 hours).
 */
import { tzOffset } from '@date-fns/tz';

export const MINUTE = 60_000;
export const HOUR = 3_600_000;
export const DAY = 86_400_000;

/** Offsets change on quarter hours at the finest, so one is remembered for each. */
const BUCKET = 15 * MINUTE;
const offsets = new Map<string, Map<number, number>>();

/** Is this an IANA time zone name that this runtime knows? */
export function isTimeZone(name: string): boolean {
  if (!/^[A-Za-z]/.test(name)) return false;
  try {
    new Intl.DateTimeFormat('en-GB', { timeZone: name });
    return true;
  } catch {
    return false;
  }
}

/** Milliseconds to add to UTC for the zone's wall clock at that instant. */
export function offsetAt(at: number, zone: string): number {
  let known = offsets.get(zone);
  if (!known) offsets.set(zone, (known = new Map()));
  const bucket = Math.floor(at / BUCKET);
  let offset = known.get(bucket);
  if (offset === undefined) {
    if (known.size > 200_000) known.clear();
    offset = tzOffset(zone, new Date(bucket * BUCKET)) * MINUTE;
    if (Number.isNaN(offset)) throw new RangeError(`Unknown time zone: ${zone}`);
    known.set(bucket, offset);
  }
  return offset;
}

/** The day an instant falls on. */
export function dayOf(at: number, zone: string): number {
  return Math.floor((at + offsetAt(at, zone)) / DAY);
}

/**
 * The instant of a wall-clock time in the zone, given as if it were UTC.
 * A time that occurs twice (clocks go back) is the first of the two; one that
 * does not occur (clocks go forward) is read with the offset before the change.
 */
export function fromWallClock(wall: number, zone: string): number {
  const before = wall - offsetAt(wall - DAY, zone);
  if (before + offsetAt(before, zone) === wall) return before;
  const after = wall - offsetAt(wall + DAY, zone);
  return after + offsetAt(after, zone) === wall ? after : before;
}

/** The first instant of a day. */
export function startOfDay(day: number, zone: string): number {
  return fromWallClock(day * DAY, zone);
}

/** Day number of a calendar date; null when there is no such date (30 February). */
export function dayFromDate(text: string): number | null {
  const match = /^(\d{4})-(\d{2})-(\d{2})$/.exec(text);
  if (!match) return null;
  const [year, month, date] = [Number(match[1]), Number(match[2]), Number(match[3])];
  const at = Date.UTC(year, month - 1, date);
  const back = new Date(at);
  if (back.getUTCMonth() !== month - 1 || back.getUTCDate() !== date || year < 1000) return null;
  return at / DAY;
}

/** `2026-11-24` for a day number. */
export function dateOfDay(day: number): string {
  return new Date(day * DAY).toISOString().slice(0, 10);
}

/** 0 = Monday … 6 = Sunday. */
export function weekday(day: number): number {
  return (((day + 3) % 7) + 7) % 7;
}
