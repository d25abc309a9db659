import { readGradeCell, readItemHeading } from './grade-cell';
import { PERSON_ROLES, isAboutPeople, roleOfColumn, type ColumnRole } from './roles';
import type { TableHead } from './table';
import { areMarks, dateInHeading } from './register';
import { isoFromForeign } from './when';
import { NOTHING, SUMS, foldWord } from './words';

/** What another system's table may be. */
export const KINDS_OF_OTHERS = ['participants', 'access-log', 'gradebook', 'completion', 'presence', 'marks'] as const;
export type ForeignKind = (typeof KINDS_OF_OTHERS)[number];

/** A column that stands for an item of a course. */
export interface ItemColumn {
  index: number;
  title: string;
  /** What it is out of, by its heading or by a row under it. */
  points: number | null;
  /** The column beside it that says when it was done, where there is one. */
  dateIndex?: number;
}

/** What a table was taken for. */
export interface Recognised {
  kind: ForeignKind;
  /** How sure that is, 0 to 1. */
  sure: number;
  /** What else it could be, the likelier first. */
  others: { kind: ForeignKind; sure: number }[];
  /** What each column is about; null for an item's, and for one that is left out. */
  roles: (ColumnRole | null)[];
  items: ItemColumn[];
  /** Is progress a share from 0 to 1, and not in per cent? */
  isShare: boolean;
  /** Columns that are not taken, with why. */
  leftOut: { index: number; why: 'total' | 'not understood' | 'empty' }[];
}

/** Columns that mean something beside an item's name alone. */
const OF_LONG: readonly ColumnRole[] = ['score', 'points', 'done', 'done_at', 'submitted_at'];

/** An item's column by its heading, and by what stands under it in a row of points. */
export function itemColumn({ heading, points }: TableHead, index: number): ItemColumn {
  const named = readItemHeading(heading[index]);
  return { index, title: named.title, points: points?.[index] ?? named.points };
}

/**
 * The column after an item's that says when it was done: it bears the item's name and more, or none, and dates stand in it.
 *
 * @example of "Knots", "Knots - completion date": the second
 */
function dateBeside(
  heading: readonly string[],
  columns: readonly (readonly string[])[],
  index: number,
): number | undefined {
  const [own, next] = [heading[index], heading[index + 1]];
  if (next === undefined || !(next === '' || (next.length > own.length && next.startsWith(own)))) return undefined;
  const held = columns[index + 1].filter((cell) => !NOTHING.has(foldWord(cell)));
  const isDates = held.length > 0 && held.every((cell) => /^\d{4}-\d{2}-\d{2}/.test(isoFromForeign(cell, 'day_first')));
  return isDates ? index + 1 : undefined;
}

/** A session's column, by its whole heading. */
const sessionColumn = ({ heading }: TableHead, index: number): ItemColumn => ({
  index,
  title: heading[index],
  points: null,
});

/** What cells under one heading are, where they are those of an item; null where they are none. */
function itemCells(cells: readonly string[]): 'scores' | 'done' | 'empty' | null {
  const read = cells.map(readGradeCell).filter(({ is }) => is !== 'nothing');
  // Seconds since 1970 are no score.
  if (read.some((cell) => cell.is === 'points' && cell.points >= 1e9)) return null;
  if (read.length === 0) return 'empty';
  const count = (...kinds: string[]) => read.filter(({ is }) => kinds.includes(is)).length;
  const [scores, done] = [count('points', 'percent'), count('done', 'not done')];
  const known = scores + done + count('missing', 'excused');
  if (known < 0.8 * read.length) return null;
  return scores >= done ? 'scores' : 'done';
}

/** Are they shares from 0 to 1: none above, and some between? */
function isShare(cells: readonly string[]): boolean {
  const numbers = cells
    .map(readGradeCell)
    .flatMap((cell) => (cell.is === 'points' && cell.of === null ? [cell.points] : []));
  return numbers.every((value) => value >= 0 && value <= 1) && numbers.some((value) => value > 0 && value < 1);
}

/** The roles of columns: each but a person's at most once, the first that has it; of two names the fuller one is it. */
function rolesOf(heading: readonly string[], columns: readonly (readonly string[])[]): (ColumnRole | null)[] {
  const found = heading.map((name, index) => roleOfColumn(name, columns[index]));
  // "Nom" beside "Prénom" is the family name; alone, it is all of it.
  if (found.includes('family_name') && !found.includes('given_name') && !found.includes('name'))
    found[found.indexOf('family_name')] = 'name';
  if (found.includes('given_name') && !found.includes('family_name') && !found.includes('name'))
    found[found.indexOf('given_name')] = 'name';
  // Names that nobody has headed are the first column of words that are.
  if (!found.some((role) => role !== null && PERSON_ROLES.includes(role))) {
    const unnamed = heading.findIndex((name, index) => name === '' && areNames(columns[index]));
    if (unnamed >= 0) found[unnamed] = 'name';
  }
  // What stands beside an item's name as its state is whether it is done; beside a day alone, whether somebody was there.
  const state = found.indexOf('status');
  if (state >= 0 && found.includes('item') && areStates(columns[state])) found[state] = 'done';
  else if (state >= 0 && found.includes('time') && areMarks(columns[state], columns[state])) found[state] = 'mark';
  return found.map((role, index) => (role !== null && found.indexOf(role) !== index ? null : role));
}

/** Are they full names, nearly all of them somebody else's? */
function areNames(cells: readonly string[]): boolean {
  const held = cells.map((cell) => cell.trim().slice(0, 200)).filter((cell) => cell !== '');
  const names = held.filter((cell) => /^\p{L}[\p{L}'’.-]*(,? \p{L}[\p{L}'’.-]*){1,5}$/u.test(cell));
  return names.length > 0 && names.length >= 0.8 * held.length && new Set(names).size >= 0.8 * names.length;
}

/** Do they say of each whether it is done? */
function areStates(cells: readonly string[]): boolean {
  const held = cells.map(readGradeCell).filter(({ is }) => is !== 'nothing');
  return held.length > 0 && held.every(({ is }) => is === 'done' || is === 'not done' || is === 'excused');
}

/**
 * Says what a table is by its headings and by what stands in it: a row a fact, a row a person, or a column an item.
 *
 * @param head as `findTable` gives it
 * @param rows the first rows below it
 * @param asked what somebody has said it is; null to find out
 * @returns null where nobody is in it, or nothing about them
 *
 * @example
 * recognise({ heading: ['Name', 'Last access'], … }, [['Ines', 'never']]) // { kind: 'participants', … }
 */
export function recognise(
  head: TableHead,
  rows: readonly (readonly string[])[],
  asked: ForeignKind | null = null,
): Recognised | null {
  const { heading } = head;
  const columns = heading.map((_, index) => rows.map((row) => row[index] ?? ''));
  const roles = rolesOf(heading, columns);
  const has = (...wanted: ColumnRole[]) => wanted.some((role) => roles.includes(role));
  if (!PERSON_ROLES.some((role) => roles.includes(role))) return null;
  // A row a fact: what was scored or done stands beside the item's name. Without one, it is an item's own column.
  const isLong = has('item') && has('score', 'done', 'done_at', 'submitted_at');
  const isMarked = has('time') && has('mark');
  if (!isLong) roles.forEach((role, index) => OF_LONG.includes(role!) && (roles[index] = null));
  const leftOut: Recognised['leftOut'] = [];
  const items: (ItemColumn & { holds: 'scores' | 'done' | 'empty' | 'marks' })[] = [];
  const dated = heading.map((name) => dateInHeading(name) !== null);
  const underDates = columns.filter((_, index) => dated[index]).flat();
  heading.forEach((name, index) => {
    if (roles[index] === null && (SUMS.test(foldWord(name)) || SUMS.test(foldWord(head.names[index])))) {
      leftOut.push({ index, why: 'total' });
    } else if (roles[index] === null) {
      // What has points is an item, whatever stands under it.
      const hasPoints = typeof head.points?.[index] === 'number';
      const isItem = name !== '' && !isAboutPeople(name);
      const isSession = isItem && dated[index] && areMarks(columns[index], underDates);
      const holds = isSession ? 'marks' : isItem ? (itemCells(columns[index]) ?? (hasPoints ? 'scores' : null)) : null;
      const dateIndex = holds === null ? undefined : dateBeside(heading, columns, index);
      if (holds !== null)
        items.push({ ...itemColumn(head, index), holds, ...(dateIndex !== undefined && { dateIndex }) });
      else
        leftOut.push({ index, why: columns[index].every((cell) => cell.trim() === '') ? 'empty' : 'not understood' });
    }
  });
  const [scores, done, marks] = (['scores', 'done', 'marks'] as const).map(
    (what) => items.filter(({ holds }) => holds === what).length,
  );
  // How long somebody was there in all, beside when they were there last, is no meeting's.
  const isOfPlatform = asked === 'participants' || (has('last_access', 'progress') && !has('entered', 'left'));
  if (isOfPlatform && has('duration') && !has('minutes')) roles[roles.indexOf('duration')] = 'minutes';
  const isScored = isLong && has('score', 'submitted_at');
  const weights: [ForeignKind, number][] = [
    ['access-log', !has('time') || isMarked ? 0 : has('action') ? 10 : has('item') && !isLong ? 6 : 2],
    ['presence', has('duration', 'entered') ? 8 : isOfPlatform || !has('minutes') ? 0 : 4],
    ['gradebook', isScored ? 9 : scores > 0 ? 5 + Math.min(3, scores) - (has('last_access') ? 3 : 0) : 0],
    ['completion', isLong && !isScored ? 9 : done > 0 ? 5 + Math.min(3, done) - (has('last_access') ? 3 : 0) : 0],
    ['marks', isMarked ? 9 : marks > 0 ? 5 + Math.min(3, marks) : 0],
    [
      'participants',
      has('last_access')
        ? 7
        : has('progress', 'status')
          ? 3
          : has('minutes')
            ? 2
            : has('group', 'course', 'enrolled_on')
              ? 1
              : 0,
    ],
  ];
  const likely = weights.filter(([, weight]) => weight > 0).sort((a, b) => b[1] - a[1]);
  const kind = asked ?? likely[0]?.[0];
  if (kind === undefined) return null;
  const isAlso = (role: ColumnRole, as: ColumnRole) => {
    if (has(role) && !has(as)) roles[roles.indexOf(role)] = as;
  };
  // Minutes in a meeting's list are how long somebody stayed, a time in it is when they came, and one beside what was done or
  // scored is when.
  if (kind === 'presence') {
    isAlso('minutes', 'duration');
    isAlso('time', 'entered');
  } else if (isLong && kind === 'completion') isAlso('time', 'done_at');
  else if (isLong && kind === 'gradebook') isAlso('time', 'submitted_at');
  const sureness = (weight: number) => Math.round(10 * Math.min(1, weight / 8)) / 10;
  const isWide = !isLong && (kind === 'gradebook' || kind === 'completion' || (kind === 'marks' && !isMarked));
  const shown = items.filter(({ holds }) => (kind === 'marks') === (holds === 'marks'));
  return {
    kind,
    sure: sureness(likely.find(([name]) => name === kind)?.[1] ?? 0),
    others: likely.filter(([name]) => name !== kind).map(([name, weight]) => ({ kind: name, sure: sureness(weight) })),
    roles,
    isShare: isShare(columns[roles.indexOf('progress')] ?? []),
    items: isWide
      ? shown.map(({ holds, ...item }) => (holds === 'marks' ? sessionColumn(head, item.index) : item))
      : [],
    leftOut: [
      ...leftOut,
      ...(isWide ? items.filter((item) => !shown.includes(item)) : items).map(({ index }) => ({
        index,
        why: 'not understood' as const,
      })),
    ].sort((a, b) => a.index - b.index),
  };
}
