/** Marks, and what they come to over time. */

/** A mark that a roll can give. */
export interface Mark {
  /** As files and the API name it. */
  code: string;
  /** As screens say it. */
  label: string;
  /** 0–1; what it is worth where it counts. */
  credit: number;
  /** Whether a session with it counts at all. */
  counts: boolean;
}

/** How a mark came about: set by a person, from a file, by the learner's own check-in, or as it was suggested. */
export type MarkSource = 'hand' | 'file' | 'check_in' | 'suggested';

/** The marks a programme begins with; it may change them and add its own. */
export const DEFAULT_MARKS: readonly Mark[] = [
  { code: 'present', label: 'present', credit: 1, counts: true },
  { code: 'late', label: 'late', credit: 0.75, counts: true },
  { code: 'partial', label: 'partial', credit: 0.5, counts: true },
  { code: 'absent', label: 'absent', credit: 0, counts: true },
  { code: 'excused', label: 'excused', credit: 0, counts: false },
];

export interface Attendance {
  /** Sessions that count. */
  counted: number;
  credit: number;
  /** Credit of what counts, 0–1; null where nothing does. */
  rate: number | null;
  /** How often each mark was given, by its code. */
  byMark: Readonly<Record<string, number>>;
  /** Sessions missed one after the other at the end of the record; those that do not count are passed over. */
  missedInARow: number;
  /** Rate of the last four that count less that of those before, −1–1; null with fewer than two before. */
  trend: number | null;
}

/** The last so many are held against those before. */
const LAST = 4;
const ENOUGH_BEFORE = 2;

function rateOf(marks: readonly Mark[]): number | null {
  return marks.length === 0 ? null : marks.reduce((sum, mark) => sum + mark.credit, 0) / marks.length;
}

/**
 * What a learner's marks come to.
 *
 * @param codes of the sessions held while they were enrolled and whose roll was taken, oldest first
 *
 * @example attendanceOf(['present', 'late', 'excused', 'absent']) // counted 3, credit 1.75, missedInARow 1
 */
export function attendanceOf(codes: readonly string[], marks: readonly Mark[] = DEFAULT_MARKS): Attendance {
  const known = new Map(marks.map((mark) => [mark.code, mark]));
  const counted = codes.map((code) => known.get(code)).filter((mark) => mark?.counts === true) as Mark[];
  const credit = counted.reduce((sum, mark) => sum + mark.credit, 0);
  const byMark: Record<string, number> = {};
  for (const code of codes) byMark[code] = (byMark[code] ?? 0) + 1;
  const before = counted.slice(0, -LAST);
  const lastThere = counted.findLastIndex((mark) => mark.credit > 0);
  return {
    counted: counted.length,
    credit,
    rate: rateOf(counted),
    byMark,
    missedInARow: counted.length - 1 - lastThere,
    trend: before.length < ENOUGH_BEFORE ? null : rateOf(counted.slice(-LAST))! - rateOf(before)!,
  };
}
