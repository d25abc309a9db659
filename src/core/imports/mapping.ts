/** Files whose headings are not ours: which of their columns is which of ours, and how dates are written. */
import { foldHeading } from './heading-name';
import type { Column } from './column';
import { columnNames, columnsOfKind, type FileKindName } from './kinds';

/** ISO 8601, or numerals with the day or the month first. */
export const DATE_ORDERS = ['iso', 'day_first', 'month_first'] as const;
export type DateOrder = (typeof DATE_ORDERS)[number];

export interface Mapping {
  /** Our column for each of the file's headings (folded); null for one that is not used. */
  columns: Record<string, string | null>;
  dates: DateOrder;
  /** Zone of times without an offset. */
  timezone: string;
}

/** What is wrong with a mapping of some headings for a kind of file, in words. */
export function mappingFaults(kind: FileKindName, headings: readonly string[], { columns }: Mapping): string[] {
  const ours = columnNames(kind);
  const users = new Map<string, string[]>();
  for (const heading of headings) {
    const to = columns[foldHeading(heading)];
    if (to) users.set(to, [...(users.get(to) ?? []), heading]);
  }
  return [...users].flatMap(([to, from]) => {
    if (!ours.includes(to)) return [`${from[0]} is mapped to ${to}, which a file of the kind ${kind} does not have`];
    return from.length > 1 ? [`${from.join(' and ')} are both mapped to ${to}`] : [];
  });
}

const NUMERALS =
  /^(\d{1,4})[./-](\d{1,2})[./-](\d{1,4})(?:[T ,]+(\d{1,2})[:.](\d{2})(?:[:.](\d{2}))?\s*([ap]\.?m\.?)?)?$/i;

/**
 * A date or time in numerals as ISO 8601, by the order its file is written in; any other text as it
 * is, for the column's own check to judge. 30 February stays 30 February.
 */
export function isoFromNumerals(text: string, order: DateOrder): string {
  const match = order === 'iso' ? null : NUMERALS.exec(text.trim());
  if (!match || match[1].length === 3 || match[1].length > 2) return text;
  const [, first, second, year, hour, minute, secondOfMinute, half] = match;
  const [day, month] = order === 'day_first' ? [first, second] : [second, first];
  const fullYear = year.length === 2 ? `20${year}` : year;
  if (fullYear.length !== 4) return text;
  const date = `${fullYear}-${month.padStart(2, '0')}-${day.padStart(2, '0')}`;
  if (hour === undefined) return date;
  const hours = half ? (Number(hour) % 12) + (/^p/i.test(half) ? 12 : 0) : Number(hour);
  return `${date}T${String(hours).padStart(2, '0')}:${minute}:${secondOfMinute ?? '00'}`;
}

/** The order that some texts are certainly written in; null where it could be either. */
export function dateOrderOf(texts: readonly string[]): DateOrder | null {
  let [dayFirst, monthFirst, numerals] = [true, true, false];
  for (const text of texts) {
    const match = NUMERALS.exec(text.trim());
    if (!match || match[1].length > 2) continue;
    numerals = true;
    if (Number(match[1]) > 12) monthFirst = false;
    if (Number(match[2]) > 12) dayFirst = false;
  }
  if (!numerals) return 'iso';
  return dayFirst === monthFirst ? null : dayFirst ? 'day_first' : 'month_first';
}

const TIME = /^\d{1,4}[./-]\d{1,2}[./-]\d{1,4}([T ,].*)?$/;

/** How well a column's heading and content fit one of ours: 0 is not at all. */
function fit(
  name: string,
  { synonyms = [], isTime, looks }: Column,
  heading: string,
  samples: readonly string[],
): number {
  const look = isTime ? TIME : looks;
  const filled = samples.filter((text) => text !== '');
  const isLike = look !== undefined && filled.length > 0 && filled.every((text) => look.test(text));
  // What looks like nothing of the kind is not it, whatever it is called.
  if (look !== undefined && filled.length > 0 && !filled.some((text) => look.test(text))) return 0;
  const place = synonyms.indexOf(heading);
  const byName =
    heading === name
      ? 100
      : place >= 0
        ? 70 - place
        : heading.includes(name) || (name.length > 4 && heading.length > 3 && name.includes(heading))
          ? 30
          : 0;
  // A date or a yes says little about which column it is.
  const byContent = isLike ? (isTime || name === 'required' ? 10 : 28) : 0;
  return byName === 0 && byContent < 28 ? 0 : byName + byContent;
}

export interface Proposal {
  columns: Mapping['columns'];
  /** Null where the order of day and month has to be said. */
  dates: DateOrder | null;
}

/**
 * Proposes which column is which, by heading and by content: each of ours goes to at most one of
 * theirs, the best fit first.
 */
export function proposeMapping(
  kind: FileKindName,
  headings: readonly string[],
  rows: readonly (readonly string[])[],
): Proposal {
  const folded = headings.map(foldHeading);
  const samples = headings.map((_, index) => rows.map((cells) => (cells[index] ?? '').trim()));
  const ours = columnsOfKind(kind);
  const fits = [...ours].flatMap(([name, column]) =>
    folded.map((heading, index) => ({ name, index, score: fit(name, column, heading, samples[index]) })),
  );
  fits.sort((a, b) => b.score - a.score);
  const taken = new Map<number, string>();
  for (const { name, index, score } of fits) {
    if (score === 0) break;
    if (!taken.has(index) && ![...taken.values()].includes(name)) taken.set(index, name);
  }
  const times = [...taken].filter(([, name]) => ours.get(name)!.isTime).flatMap(([index]) => samples[index]);
  return {
    columns: Object.fromEntries(folded.map((heading, index) => [heading, taken.get(index) ?? null])),
    dates: dateOrderOf(times),
  };
}
