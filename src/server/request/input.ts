/** Turning what comes in (forms, query strings, bodies) into checked values. */
import { getMetadataStorage, validateSync } from 'class-validator';

export interface FieldFault {
  field: string;
  message: string;
}

/** Input that cannot be taken, with every field that is wrong. */
export class InvalidInput extends Error {
  override name = 'InvalidInput';
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

const known = new WeakMap<new () => object, string[]>();

/** The fields a class declares rules for. */
function fieldsOf(input: new () => object): string[] {
  const found = known.get(input);
  if (found) return found;
  const metadata = getMetadataStorage().getTargetValidationMetadatas(input, '', true, false);
  const fields = [...new Set(metadata.map((entry) => entry.propertyName))];
  known.set(input, fields);
  return fields;
}

/**
 * Reads an input class from loose values: only its declared fields, texts trimmed,
 * empty ones left out.
 * @throws InvalidInput naming every field that is wrong
 */
export function readInput<T extends object>(input: new () => T, values: Record<string, unknown>): T {
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
        message: value === undefined ? 'is missing' : (Object.values(constraints ?? {})[0] ?? 'is not right'),
      })),
    );
  }
  return read as T;
}

/** The whole numbers of a list from a browser, which may be anything. */
export function wholeNumbers(values: unknown): number[] {
  return Array.isArray(values) ? values.filter((value): value is number => Number.isSafeInteger(value)) : [];
}
