/** Registers of who was there: a row a person, a column a session with its date for a heading. */
import { readGradeCell } from './grade-cell';
import { foldWord } from './words';

const NUMERALS = /\d{1,4}[./-]\d{1,2}[./-]\d{2,4}(?:,? \d{1,2}[:.]\d{2}(?::\d{2})?(?: ?[ap]\.?m\.?)?)?/i;
const IN_WORDS =
  /(?:\p{L}+[,.]? )?\d{1,2}\.?(?: de)? \p{L}{3,}\.?,?(?: de)? \d{4}(?:,? (?:at |um |a |à )?\d{1,2}[:.]\d{2}(?: ?[ap]\.?m\.?)?)?/u;

/**
 * The date, and the time where there is one, that a heading holds; null for one without.
 *
 * @example dateInHeading('Session 3 (12/10/2026 18:30)') // '12/10/2026 18:30'
 */
export function dateInHeading(heading: string): string | null {
  // An expression takes its time over a long one, and no heading is.
  const short = heading.slice(0, 200);
  return (NUMERALS.exec(short) ?? IN_WORDS.exec(short))?.[0].trim() ?? null;
}

/** Our marks by the words that registers have for them. A single letter is one where the others of the column are as well. */
const MARKS: ReadonlyMap<string, string> = new Map(
  (
    [
      [
        'present',
        'p|present|here|attended|there|anwesend|da|teilgenommen|presente|asistio|aanwezig|obecny|obecna|obecnosc|narvarande|til stede',
      ],
      [
        'absent',
        'a|absent|missed|not there|no show|abwesend|fehlt|gefehlt|unentschuldigt|ausente|falta|no asistio|assente|afwezig|nieobecny|nieobecna|nieobecnosc|franvarande',
      ],
      [
        'late',
        'l|late|arrived late|verspatet|zu spat|en retard|retard|tarde|retraso|in ritardo|ritardo|te laat|laat|spozniony|spoznienie',
      ],
      [
        'excused',
        'e|excused|authorised absence|entschuldigt|excuse|justificado|giustificato|afgemeld|geoorloofd afwezig|usprawiedliwiony|usprawiedliwiona',
      ],
    ] as const
  ).flatMap(([mark, words]) => words.split('|').map((word) => [word, mark] as const)),
);

/**
 * What a cell of a register says: the word of one of our marks, empty where it says nothing, null where it is none.
 *
 * @example readMark('Entschuldigt') // 'excused'
 * @example readMark('✓') // 'present'
 */
export function readMark(text: string): string | null {
  const folded = foldWord(text);
  const known = MARKS.get(folded);
  if (known) return known;
  const { is } = readGradeCell(text);
  if (is === 'nothing') return '';
  if (is === 'missing') return 'absent';
  if (folded === '1' || is === 'done') return 'present';
  return folded === '0' || is === 'not done' ? 'absent' : null;
}

/**
 * Are cells under a date those of a register? "A" alone could be there or absent: it is told by a "P" somewhere.
 *
 * @param all every cell under a date
 */
export function areMarks(cells: readonly string[], all: readonly string[]): boolean {
  const held = cells.filter((cell) => readMark(cell) !== '');
  if (held.length === 0 || held.filter((cell) => readMark(cell) !== null).length < 0.8 * held.length) return false;
  const says = (letter: string) => all.some((cell) => cell.trim().toLowerCase() === letter);
  return !says('a') || says('p');
}
