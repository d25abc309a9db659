/** Dates and lengths of time as spreadsheets keep them: a number of days, and a format that says that it is one. */
import { DAY, HOUR, MINUTE } from '../../time/zone';

export type NumberLook = 'number' | 'percent' | 'date' | 'time' | 'length';

/** Formats that every workbook knows by number: per cent, dates, dates with times, times and lengths (ECMA-376, part 1, 18.8.30). */
const KNOWN: readonly (readonly [from: number, to: number, look: NumberLook])[] = [
  [9, 10, 'percent'],
  [14, 17, 'date'],
  [18, 21, 'time'],
  [22, 22, 'date'],
  [27, 31, 'date'],
  [32, 35, 'time'],
  [36, 36, 'date'],
  [45, 47, 'length'],
  [50, 58, 'date'],
];

/**
 * What a number format makes of a number.
 *
 * @param code the format's own text, where it is none that every workbook knows
 * @example lookOfFormat(164, 'dd/mm/yyyy hh:mm') // 'date'
 */
export function lookOfFormat(id: number, code: string | undefined): NumberLook {
  const known = KNOWN.find(([from, to]) => id >= from && id <= to);
  if (code === undefined) return known?.[2] ?? 'number';
  // What stands in quotes, after a backslash, or in brackets as a colour or a language is no part of it.
  const bare = code
    .split(';')[0]
    .replace(/"[^"]*"|\\.|_.|\*./g, '')
    .toLowerCase();
  if (/\[(h+|m+|s+)\]/.test(bare)) return 'length';
  const letters = bare.replace(/\[[^\]]*\]/g, '');
  if (letters === 'general') return 'number';
  if (letters.includes('%')) return 'percent';
  if (/[yd]/.test(letters)) return 'date';
  if (/[hs]/.test(letters)) return 'time';
  return /m/.test(letters) ? 'date' : 'number';
}

const two = (value: number) => String(value).padStart(2, '0');

/** A length of time as hours, minutes and seconds. */
function clock(seconds: number): string {
  return `${two(Math.floor(seconds / 3600))}:${two(Math.floor(seconds / 60) % 60)}:${two(seconds % 60)}`;
}

const DAYS_1904 = 1462;
/** Day 0 of the usual system is 30 December 1899, from day 61 on: it has a 29 February 1900 that never was. */
const DAY_ZERO = Date.UTC(1899, 11, 30);

/**
 * A spreadsheet's number as text: an ISO 8601 date or time to the second, a length as hours:minutes:seconds, a share in per cent,
 * or the number.
 *
 * @example sayNumber(46293.5535185185, 'date', false) // '2026-09-28T13:17:04'
 */
export function sayNumber(value: number, look: NumberLook, is1904: boolean): string {
  if (look === 'percent' && Number.isFinite(value)) return `${Number((100 * value).toPrecision(12))} %`;
  if (look === 'number' || !Number.isFinite(value) || value < 0) return String(value);
  const seconds = Math.round((value * DAY) / 1000);
  if (look === 'length' || (look === 'time' && value < 1)) return clock(seconds);
  const days = value + (is1904 ? DAYS_1904 : value < 60 ? 1 : 0);
  const at = DAY_ZERO + Math.round((days * DAY) / 1000) * 1000;
  // After the year 9999 it is no date that anybody means.
  if (days > 2_958_465) return String(value);
  const date = new Date(at);
  const [hours, minutes, rest] = [date.getUTCHours(), date.getUTCMinutes(), date.getUTCSeconds()];
  const isMidnight = hours * HOUR + minutes * MINUTE + rest === 0;
  const day = date.toISOString().slice(0, 10);
  return isMidnight ? day : `${day}T${two(hours)}:${two(minutes)}:${two(rest)}`;
}
