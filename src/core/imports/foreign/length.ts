import { NEVER, UNITS, foldWord } from './words';

const CLOCK = /^(\d{1,4}):([0-5]?\d)(?::([0-5]?\d))?$/;
const PIECE = /^(\d+(?:[.,]\d+)?) ?(\p{L}+)(?:,| and| und| et| y| e| en| i)? */u;

/**
 * A length of time as other systems write it.
 *
 * @param unit ms of one, where a bare number stands there: what the heading says ("minutes"); without one it is no length
 * @returns ms; null where it is none
 *
 * @example
 * readLength('1 h 05 min 20 s') // 3_920_000
 * readLength('01:05:00') // 3_900_000: hours, minutes, seconds
 * readLength('34:08') // 2_048_000: minutes and seconds
 * readLength('5 Tage 12 Stunden 24 Minuten') // 477_840_000
 * readLength('51', 60_000) // 3_060_000
 */
export function readLength(text: string, unit?: number): number | null {
  const folded = foldWord(text.replace(/(\d)\.(\d)/g, '$1,$2'));
  const clock = CLOCK.exec(folded);
  if (clock) {
    const [first, second, third] = clock.slice(1).map((part) => (part === undefined ? null : Number(part)));
    return third === null ? (first! * 60 + second!) * 1000 : ((first! * 60 + second!) * 60 + third) * 1000;
  }
  if (unit !== undefined && /^\d+(,\d+)?$/.test(folded)) return Math.round(Number(folded.replace(',', '.')) * unit);
  let rest = folded;
  let ms = 0;
  let last = Infinity;
  while (rest !== '') {
    const piece = PIECE.exec(rest);
    const size = piece && UNITS.get(piece[2]);
    // Each piece is of a smaller unit than the one before it: "5 min 3 h" is no length that anybody writes.
    if (!piece || size === undefined || size === null || size >= last) return null;
    ms += Number(piece[1].replace(',', '.')) * size;
    last = size;
    rest = rest.slice(piece[0].length);
  }
  return last === Infinity ? null : Math.round(ms);
}

const DAY = 86_400_000;
/** Days that have a word of their own. */
const DAYS_AGO: ReadonlyMap<string, number> = new Map([
  ...'today|heute|aujourd hui|hoy|oggi|vandaag|hoje|dzisiaj|dzis|idag|i dag'
    .split('|')
    .map((word) => [word, 0] as const),
  ["aujourd'hui", 0],
  ['aujourd’hui', 0],
  ...'yesterday|gestern|hier|ayer|ieri|gisteren|ontem|wczoraj|igar|i gar'.split('|').map((word) => [word, 1] as const),
]);

/**
 * How long ago something was, as a list of participants has it: a length, perhaps with words around it, or never.
 *
 * @returns ms; `never`; null where it is neither
 *
 * @example
 * readAge('3 days 4 hours ago') // 273_600_000
 * readAge('vor 2 Tagen') // 172_800_000
 * readAge('Jamais') // 'never'
 */
export function readAge(text: string): number | 'never' | null {
  const folded = foldWord(text);
  if (NEVER.has(folded)) return 'never';
  const day = DAYS_AGO.get(folded);
  if (day !== undefined) return day * DAY;
  if (
    /^(now|just now|online|jetzt|gerade eben|maintenant|a l'instant|ahora|adesso|nu|agora|teraz|nyss|netop)$/.test(
      folded,
    )
  )
    return 0;
  const bare = folded
    .replace(/^(vor|il y a|hace|ha|for) /, '')
    .replace(/ (ago|fa|geleden|temu|atras|sedan|siden)$/, '');
  return CLOCK.test(bare) ? null : readLength(bare);
}
