/** Turning what comes in (forms, query strings, bodies) into checked values. */
import { ValidateBy, getMetadataStorage, validateSync } from 'class-validator';
import { IsDate, IsInstant } from '@/core/imports/validators';
import { parseInstant } from '@/core/time/instant';
import { readTypedTime } from '@/core/time/typed';
import { dayFromDate } from '@/core/time/zone';

/** What came in, before it is checked: anything may be in it. */
export type Values = Record<string, unknown>;

export interface FieldFault {
  field: string;
  message: string;
}

/** Input that cannot be taken, with every field that is wrong. */
export class InvalidInput extends Error {
  override name = 'InvalidInput';
  /** What else an answer says of it. */
  readonly more: object = {};

  constructor(readonly errors: FieldFault[]) {
    super(errors.map((error) => `${error.field} ${error.message}`).join('; '));
  }
}

/**
 * The form of an input class in a browser, before it is checked: texts, or several of them.
 *
 * @example FormOf<NoteInput> // { body: string; audience: string; labels: string[] }
 */
export type FormOf<T> = { [K in keyof T]-?: NonNullable<T[K]> extends readonly unknown[] ? string[] : string };

/** Somebody asked for what does not exist, or is not theirs to see: the answer is the same. */
export class NotFound extends Error {
  override name = 'NotFound';
  constructor(what = 'Nothing') {
    super(`${what} was found here.`);
  }
}

/** What a page sent as an object, to be looked into: a call made by hand may hold anything, nothing included. */
export function fields<T extends object>(sent: T): Partial<T> {
  return Object(sent) as Partial<T>;
}

/** What a page sent as a form: empty, where a call made by hand holds none. */
export function formOf(sent: FormData): FormData {
  return sent instanceof FormData ? sent : new FormData();
}

const known = new WeakMap<new () => object, string[]>();

/** The fields a class declares rules for, in their order. */
export function fieldsOf(input: new () => object): string[] {
  const found = known.get(input);
  if (found) return found;
  const metadata = getMetadataStorage().getTargetValidationMetadatas(input, '', true, false);
  const fields = [...new Set(metadata.map((entry) => entry.propertyName))];
  known.set(input, fields);
  return fields;
}

type Convert = (text: string, zone: string) => unknown;

/** What the fields of an input class are turned into, by the class's prototype. */
const conversions = new WeakMap<object, Map<string, Convert>>();

/** Checks a field and, where it is right, turns its text into what the code works with. */
function checkedAs(check: PropertyDecorator, convert: Convert): PropertyDecorator {
  return (prototype, name) => {
    check(prototype, name);
    const byField = conversions.get(prototype) ?? new Map<string, Convert>();
    conversions.set(prototype, byField.set(String(name), convert));
  };
}

function conversionOf(input: object, field: string): Convert | undefined {
  for (let at: object | null = input; at; at = Object.getPrototypeOf(at)) {
    const found = conversions.get(at)?.get(field);
    if (found) return found;
  }
  return undefined;
}

/** A date such as 2026-11-24, as a day number. */
export const AsDay = () => checkedAs(IsDate(), (text) => dayFromDate(text));

/** A time with or without an offset, or a date, as an instant; without one it is the programme's time. */
export const AsInstant = () => checkedAs(IsInstant(), (text, zone) => parseInstant(text, zone));

/** A time of day such as 18:30, 9.30 or 6 pm, as minutes after midnight. */
export const AsMinuteOfDay = () =>
  checkedAs(
    ValidateBy({
      name: 'asMinuteOfDay',
      validator: {
        validate: (text) => typeof text === 'string' && readTypedTime(text) !== null,
        defaultMessage: () => 'is not a time such as 18:30',
      },
    }),
    (text) => {
      const [hours, minutes] = readTypedTime(text)!.split(':').map(Number);
      return hours * 60 + minutes;
    },
  );

/**
 * A whole number from 0 on.
 *
 * @example class Query { @IsOptional() @AsCount('days', 9999) quiet?: number }
 */
export const AsCount = (of: string, most: number) =>
  checkedAs(
    ValidateBy({
      name: 'asCount',
      validator: {
        validate: (text) =>
          ['string', 'number'].includes(typeof text) && /^\d{1,9}$/.test(String(text)) && Number(text) <= most,
        defaultMessage: () =>
          of === 'per cent' ? `is not a per cent from 0 to ${most}` : `is not a number of ${of}, from 0 to ${most}`,
      },
    }),
    Number,
  );

/**
 * Reads an input class from loose values: only its declared fields, texts trimmed,
 * empty ones left out, and turned into what their decorators say.
 * @param zone the programme's, for a class with instants
 * @throws InvalidInput naming every field that is wrong
 */
export function readInput<T extends object>(input: new () => T, values: Values, zone = ''): T {
  const read = new input() as Record<string, unknown>;
  // What comes from a browser may be anything, nothing included.
  const given = Object(values) as Record<string, unknown>;
  for (const field of fieldsOf(input)) {
    const value = given[field];
    const clean = typeof value === 'string' ? value.trim() : value;
    if (clean !== '' && clean !== null && clean !== undefined) read[field] = clean;
  }
  const faults = validateSync(read);
  if (faults.length > 0) {
    throw new InvalidInput(
      faults.map(({ property, constraints, value }) => ({
        field: property,
        message: value === undefined ? 'is missing' : firstFault(constraints ?? {}),
      })),
    );
  }
  for (const [field, value] of Object.entries(read)) {
    const convert = value === undefined ? undefined : conversionOf(read, field);
    if (convert) read[field] = convert(String(value), zone);
  }
  return read as T;
}

/** Of several things that are wrong with a field, the one to say: what is no text at all is not too long. */
function firstFault(constraints: Record<string, string>): string {
  return constraints.isString ?? Object.values(constraints)[0] ?? 'is not right';
}

/** The whole numbers of a list from a browser, which may be anything. */
export function wholeNumbers(values: unknown): number[] {
  return Array.isArray(values) ? values.filter((value): value is number => Number.isSafeInteger(value)) : [];
}
