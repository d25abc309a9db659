import { isoFromForeign } from './when';
import { readGradeCell } from './grade-cell';
import { readAge, readLength } from './length';
import {
  ID_WORDS,
  MEANINGS,
  NAME_WORDS,
  PEOPLE,
  SHORT_MEANINGS,
  SMALL_WORDS,
  WORK_NOUNS,
  isBesides,
  withoutSmallWords,
} from './headings';
import { MINUTE } from '../../time/zone';
import { UNITS, foldWord, isRoleWord } from './words';

/** What a column of another system's file is about. */
export type ColumnRole =
  | 'name'
  | 'given_name'
  | 'family_name'
  | 'email'
  | 'learner_id'
  | 'account'
  | 'group'
  | 'course'
  | 'last_access'
  | 'status'
  | 'progress'
  | 'minutes'
  | 'time'
  | 'action'
  | 'item'
  | 'entered'
  | 'left'
  | 'duration'
  | 'score'
  | 'points'
  | 'done'
  | 'done_at'
  | 'address'
  | 'event_id'
  | 'session'
  | 'enrolled_on'
  | 'submitted_at'
  | 'role'
  | 'mark';

/** What somebody can be known by. */
export const PERSON_ROLES: readonly ColumnRole[] = [
  'name',
  'given_name',
  'family_name',
  'email',
  'learner_id',
  'account',
];

/** Does a heading name something about people beside their work, which is no item? @example isAboutPeople('Department') // true */
export function isAboutPeople(heading: string): boolean {
  return isBesides(plainHeading(heading));
}

/** Letters of a heading or a name that are looked at: nobody means more, and expressions take their time over them. */
const MOST = 200;

/** A heading as the table of meanings has it: folded, without a unit in brackets, marks as spaces. */
function plainHeading(heading: string): string {
  const parted = heading.slice(0, MOST).replace(/(\p{Ll})(\p{Lu})/gu, '$1 $2');
  const plain = foldWord(parted.replace(/\([^)]*\)|\[[^\]]*\]/g, ' ').replace(/[-_/:,;&+?#'’º°*|]+/g, ' '));
  return plain.replace(/\s+/g, ' ').trim();
}

/**
 * What a heading means by its words alone: as it stands, then without small words, then without a noun for whoever the rows
 * are about, who alone is their name.
 *
 * @example roleOfHeading('E-Mail-Adresse') // 'email'
 * @example roleOfHeading('Student no.') // 'learner_id'
 */
export function roleOfHeading(heading: string): ColumnRole | null {
  const plain = plainHeading(heading);
  const known = MEANINGS.get(plain);
  if (known) return known;
  const short = withoutSmallWords(plain);
  const meant = SHORT_MEANINGS.get(short);
  if (meant) return meant;
  const words = plain.split(' ');
  if (words.some((word) => PEOPLE.has(word))) {
    const beside = words.filter((word) => !PEOPLE.has(word) && (ID_WORDS.has(word) || !SMALL_WORDS.has(word)));
    if (beside.length === 0) return 'name';
    if (beside.every((word) => ID_WORDS.has(word))) return 'learner_id';
    const theirs = SHORT_MEANINGS.get(withoutSmallWords(beside.join(' ')));
    if (theirs) return theirs;
  }
  const rest = short.split(' ').filter((word) => !PEOPLE.has(word));
  return rest.length > 1 && rest.every((word) => NAME_WORDS.has(word)) ? 'name' : null;
}

/** Ms of the unit that a heading names, in brackets or as a word. @example unitOfHeading('Duration (minutes)') // 60_000 */
export function unitOfHeading(heading: string): number | null {
  const short = heading.slice(0, MOST);
  const bracketed = /[([]([^)\]]+)[)\]]/.exec(short)?.[1];
  for (const text of [bracketed, ...short.split(/[\s_-]+/)]) {
    const unit = text === undefined ? undefined : UNITS.get(foldWord(text));
    // A single letter beside words is no unit.
    if (unit !== undefined && (text === bracketed || text!.length > 2)) return unit;
  }
  return null;
}

/** Columns in which words stand, or ids. */
const OF_WORDS: readonly ColumnRole[] = ['item', 'action', 'group', 'course', 'session'];
const isTick = (cell: string) => ['done', 'not done', 'percent'].includes(readGradeCell(cell).is);

/** Is it words, and nothing that stands under an item's own heading? */
const isWords = (cell: string) => readGradeCell(cell).is === 'unreadable' && !isDated(cell);

/** Columns in which dates stand, or nothing. */
const DATES: readonly ColumnRole[] = ['enrolled_on', 'submitted_at', 'done_at'];
const isDated = (cell: string) =>
  /^[\s–—-]*$/.test(cell) || /^\d{4}-\d{2}-\d{2}/.test(isoFromForeign(cell, 'day_first'));

const isDay = (cell: string) => /^\d{4}-\d{2}-\d{2}$/.test(isoFromForeign(cell, 'day_first'));

const MAIL = /^[^\s@]+@[^\s@]+\.[^\s@]+$/;

/** Do most of the cells that hold something fit? */
function mostly(cells: readonly string[], fits: (cell: string) => boolean): boolean {
  const held = cells.map((cell) => cell.trim()).filter((cell) => cell !== '');
  return held.length > 0 && held.filter(fits).length >= 0.8 * held.length;
}

/**
 * What a column is about, by its heading and by what stands in it: a column of addresses is an address whatever it is called,
 * and one called so that holds none is not.
 *
 * @param cells of the first rows
 */
export function roleOfColumn(heading: string, cells: readonly string[]): ColumnRole | null {
  if (mostly(cells, (cell) => MAIL.test(cell))) return 'email';
  const role = roleOfHeading(heading);
  if (role === 'email' && cells.some((cell) => cell.trim() !== '')) return null;
  // Ticks and per cents under "Page" are those of an item that is called so.
  if (OF_WORDS.includes(role!) && mostly(cells, isTick)) return null;
  if (role === 'account' && mostly(cells, (cell) => /\p{L}.*[\s,]\s*\p{L}/u.test(cell.slice(0, MOST)))) return 'name';
  if (role === null && WORK_NOUNS.has(plainHeading(heading)) && mostly(cells, isWords)) return 'item';
  if (role === null && mostly(cells, isRoleWord)) return 'role';
  if (role !== null && DATES.includes(role) && !mostly(cells, isDated)) return null;
  // A day alone is when somebody joined a course, and no meeting.
  if ((role === 'entered' || role === 'left') && mostly(cells, isDay)) return role === 'entered' ? 'enrolled_on' : null;
  const unit = unitOfHeading(heading) ?? undefined;
  const isLength = (cell: string) => readLength(cell, unit) !== null;
  if (role === 'time' || role === 'left' || role === null) {
    // "Time" beside a name may be how long, and an age is no time at all.
    if (mostly(cells, (cell) => readAge(cell) !== null) && cells.some((cell) => readAge(cell) === 'never'))
      return 'last_access';
    if (role === 'time' && mostly(cells, isLength)) return 'duration';
  }
  // Bare numbers under such a heading are minutes.
  if (role === 'duration' || role === 'minutes')
    return mostly(cells, (cell) => readLength(cell, unit ?? MINUTE) !== null) ? role : null;
  return role;
}
