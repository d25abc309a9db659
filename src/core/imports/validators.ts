/** Checks that class-validator does not bring along, for cells and fields. */
import {
  ValidateBy,
  buildMessage,
  isEmail,
  isIn,
  isNotEmpty,
  maxLength,
  type ValidationOptions,
} from 'class-validator';
import { parseInstant } from '../time/instant';
import { dayFromDate, isTimeZone } from '../time/zone';

/** What a value must be. A cell is held against it as it is; a field of a form by way of a decorator. */
export interface Rule {
  name: string;
  test: (value: unknown) => boolean;
  /** What is wrong with what fails it. */
  says: string;
  /** The words that it allows, where it names them. */
  words?: readonly string[];
}

function check(name: string, test: (value: unknown) => boolean, says: string) {
  const decorate = (options?: ValidationOptions) =>
    ValidateBy({ name, validator: { validate: test, defaultMessage: buildMessage(() => says, options) } }, options);
  return Object.assign(decorate, { rule: { name, test, says } satisfies Rule });
}

/** An ISO 8601 time, with or without an offset. */
export const IsInstant = check(
  'isInstant',
  (value) => typeof value === 'string' && parseInstant(value, 'UTC') !== null,
  'is not a time such as 2026-11-24T09:10:00Z',
);

/** A calendar date that exists, as 2026-11-24. */
export const IsDate = check(
  'isDate',
  (value) => typeof value === 'string' && dayFromDate(value) !== null,
  'is not a date such as 2026-11-24',
);

export const IsZone = check(
  'isZone',
  (value) => typeof value === 'string' && isTimeZone(value),
  'is not a time zone such as Europe/Dublin',
);

/** A number in plain digits, with a point for decimals. */
export const IsNumeral = check(
  'isNumeral',
  (value) => typeof value === 'string' && /^-?\d+(\.\d+)?$/.test(value),
  'is not a number such as 12 or 7.5',
);

/** At least 0. Other than a number it is not judged here. */
export const NotNegative = check('notNegative', (value) => !(Number(value) < 0), 'is less than 0');

/** A number from 0 to 100. */
export const IsPercent = check(
  'isPercent',
  (value) => typeof value === 'string' && /^\d+(\.\d+)?$/.test(value) && Number(value) <= 100,
  'is not a number from 0 to 100',
);

/** The number of an attempt. */
export const IsAttempt = check(
  'isAttempt',
  (value) => typeof value === 'string' && /^[1-9]\d{0,3}$/.test(value),
  'is not a number of an attempt, from 1 to 9999',
);

/** The first and last year that a date of a course can have. */
const YEARS = [1990, 2199] as const;

/** A date or time of a year that something taught today can have. Other than a date it is not judged here. */
export const IsOfOurTime = check(
  'isOfOurTime',
  (value) => {
    const year = /^(\d{4})-/.exec(String(value).trim())?.[1];
    return year === undefined || (Number(year) >= YEARS[0] && Number(year) <= YEARS[1]);
  },
  `lies before ${YEARS[0]} or after ${YEARS[1]}`,
);

/** The first instant that anything logged can have: 1990. */
export const EARLIEST = Date.UTC(YEARS[0], 0, 1);

/** No character that cannot be seen: two ids that look the same would not be. */
export const IsPlainlyVisible = check(
  'isPlainlyVisible',
  (value) =>
    !/[\p{Cc}\p{Cf}\p{Zl}\p{Zp}\u00A0\u115F\u1160\u2000-\u200A\u202F\u205F\u3000\u3164\uFFA0]/u.test(String(value)),
  'holds a character that cannot be seen',
);

/** Course and group are written COURSE/GROUP, so a course's code has no stroke of its own. */
export const HasNoSlash = check('hasNoSlash', (value) => !String(value).includes('/'), 'holds a /');

const CONDITION =
  /^(opened|handed_in|attended|by_hand|minutes>=\d+(\.\d+)?|watched>=\d+(\.\d+)?%|score>=\d+(\.\d+)?%|talked>=\d+)$/;

/** Completion conditions joined by semicolons. */
export const IsDoneWhen = check(
  'isDoneWhen',
  (value) => typeof value === 'string' && value.split(';').every((part) => CONDITION.test(part.trim())),
  'is not made of opened, minutes>=N, watched>=N%, handed_in, score>=N%, talked>=N, attended, by_hand, joined by ;',
);

// Rules of class-validator's own, for cells.
export const NOT_EMPTY: Rule = { name: 'isNotEmpty', test: isNotEmpty, says: 'is missing' };
export const MAIL: Rule = { name: 'isEmail', test: (value) => isEmail(value), says: 'is not an e-mail address' };
export const atMost = (letters: number): Rule => ({
  name: 'maxLength',
  test: (value) => maxLength(value, letters),
  says: `is longer than ${letters} characters`,
});
export const oneOf = (words: readonly string[]): Rule => ({
  name: 'isIn',
  test: (value) => isIn(value, words),
  says: `is not one of ${words.join(', ')}`,
  words,
});
