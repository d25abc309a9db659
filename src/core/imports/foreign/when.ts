/** Dates and times as other systems write them. */
import { MONTHS, foldWord } from './words';
import { isoFromNumerals, type DateOrder } from '../mapping';

/** "12 November 2026, 14:05", "Thu 12. Nov 2026 2:05 PM", "12 de noviembre de 2026 14:05". */
const DAY_FIRST =
  /^(?:\p{L}+[,.]? )?(\d{1,2})\.?(?: de)? (\p{L}+)\.?,?(?: de)? (\d{4})(?:,? (?:at |um |a |à )?(\d{1,2})[:.](\d{2})(?:[:.](\d{2}))?(?: ?uhr)?(?: ?([ap])\.?m\.?)?)?$/u;
/** "November 12, 2026 2:05 PM". */
const MONTH_FIRST =
  /^(?:\p{L}+[,.]? )?(\p{L}+)\.? (\d{1,2}),? (\d{4})(?:,? (?:at )?(\d{1,2})[:.](\d{2})(?:[:.](\d{2}))?(?: ?([ap])\.?m\.?)?)?$/u;
/** Seconds or milliseconds since 1970, of a year from 2001 to 2286. */
const EPOCH = /^(\d{10})(\d{3})?$/;

const two = (text: string) => text.padStart(2, '0');

function isoOf(year: string, month: number, day: string, clock: readonly (string | undefined)[]): string {
  const date = `${year}-${two(String(month))}-${two(day)}`;
  const [hour, minute, second, half] = clock;
  if (hour === undefined) return date;
  const hours = half ? (Number(hour) % 12) + (half === 'p' ? 12 : 0) : Number(hour);
  return `${date}T${two(String(hours))}:${minute}:${second ?? '00'}`;
}

/**
 * A date or time as another system writes it, as ISO 8601; any other text as it is, for the column's own check to judge.
 *
 * @param order which of day and month comes first where both are numerals
 *
 * @example
 * isoFromForeign('12 Nov 2026, 14:05', 'iso') // '2026-11-12T14:05:00'
 * isoFromForeign('14/10/2026 18:30', 'day_first') // '2026-10-14T18:30:00'
 * isoFromForeign('1790607600', 'iso') // '2026-09-28T15:00:00.000Z'
 */
export function isoFromForeign(text: string, order: DateOrder): string {
  const trimmed = text.trim();
  const code = trimmed.charCodeAt(0);
  // The form that most files have, and spreadsheets as they are read here.
  if (code >= 48 && code <= 57 && trimmed[4] === '-') return trimmed.replace(/ ?(?:UTC|GMT)$/, 'Z');
  const numerals = isoFromNumerals(trimmed, order);
  if (numerals !== trimmed) return numerals;
  const epoch = EPOCH.exec(trimmed);
  if (epoch) return new Date(Number(epoch[1]) * 1000 + Number(epoch[2] ?? 0)).toISOString();
  const folded = foldWord(trimmed.replace(/(\d)\.(\d)/g, '$1:$2'));
  const dayFirst = DAY_FIRST.exec(folded);
  const monthFirst = dayFirst ? null : MONTH_FIRST.exec(folded);
  const [day, name] = dayFirst ? [dayFirst[1], dayFirst[2]] : [monthFirst?.[2], monthFirst?.[1]];
  const month = name === undefined ? undefined : MONTHS.get(name);
  if (month === undefined) return text;
  const found = (dayFirst ?? monthFirst)!;
  return isoOf(found[3], month, day!, found.slice(4));
}
