/** Checks that class-validator does not bring along, for cells and fields. */
import { ValidateBy, buildMessage, type ValidationOptions } from 'class-validator';
import { parseInstant } from '../time/instant';
import { dayFromDate, isTimeZone } from '../time/zone';

function check(name: string, test: (value: unknown) => boolean, says: string) {
  return (options?: ValidationOptions) =>
    ValidateBy({ name, validator: { validate: test, defaultMessage: buildMessage(() => says, options) } }, options);
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

const CONDITION =
  /^(opened|handed_in|attended|by_hand|minutes>=\d+(\.\d+)?|watched>=\d+(\.\d+)?%|score>=\d+(\.\d+)?%|talked>=\d+)$/;

/** Completion conditions joined by semicolons. */
export const IsDoneWhen = check(
  'isDoneWhen',
  (value) => typeof value === 'string' && value.split(';').every((part) => CONDITION.test(part.trim())),
  'is not made of opened, minutes>=N, watched>=N%, handed_in, score>=N%, talked>=N, attended, by_hand, joined by ;',
);
