/** What every list may be asked for: how many rows, from where, as what. */
import { IsIn, IsOptional, Matches } from 'class-validator';
import { InvalidInput } from './input';

export class ListQuery {
  @IsOptional() @Matches(/^([1-9]\d{0,2}|1000)$/, { message: 'is not a number from 1 to 1000' }) limit?: string;
  @IsOptional()
  @Matches(/^[A-Za-z0-9_-]{1,2000}$/, { message: 'is not a cursor given by this list' })
  cursor?: string;
  @IsOptional() @IsIn(['json', 'csv', 'xlsx'], { message: 'is not one of json, csv, xlsx' }) format?: string;
}

/** A list's order: one of its sorts, the other way round with - before it. */
export function SortedBy(sorts: readonly string[]): PropertyDecorator {
  return IsIn(
    sorts.flatMap((sort) => [sort, `-${sort}`]),
    { message: `is not one of ${sorts.join(', ')}, with - before it for descending` },
  );
}

const EVERYTHING = 1_000_000;

/** Rows asked for at once: all of them for a file. */
export function limitOf(query: ListQuery): number {
  return isFile(query) ? EVERYTHING : Number(query.limit ?? 100);
}

export function isFile<T extends { format?: string }>(query: T): query is T & { format: 'csv' | 'xlsx' } {
  return query.format === 'csv' || query.format === 'xlsx';
}

/** A row's place in a list: what it is sorted by, and its id. */
export type Place = readonly [by: string | number | null, id: string | number];

/** A place as text, opaque to whoever holds it. */
export function writeCursor(place: Place): string {
  return Buffer.from(JSON.stringify(place)).toString('base64url');
}

/**
 * The place after which a list goes on; null for its beginning. It is a place and not a number of
 * rows, so that a list that changes meanwhile neither repeats nor skips.
 * @throws InvalidInput for what is no cursor
 */
export function placeOf({ cursor, ...query }: ListQuery): Place | null {
  if (cursor === undefined || isFile(query)) return null;
  let place: unknown;
  try {
    place = JSON.parse(Buffer.from(cursor, 'base64url').toString());
  } catch {
    place = null;
  }
  const isPart = (part: unknown) => typeof part === 'string' || typeof part === 'number';
  if (Array.isArray(place) && place.length === 2 && (place[0] === null || isPart(place[0])) && isPart(place[1])) {
    return place as unknown as Place;
  }
  throw new InvalidInput([{ field: 'cursor', message: 'is not a cursor given by this list' }]);
}

/** A page of a list that is held whole and has an order of its own: the rows after the one a cursor names. */
export function pageInOrder<T>(
  all: readonly T[],
  query: ListQuery,
  idOf: (row: T) => string | number,
): { rows: T[]; next: string | null } {
  const place = placeOf(query);
  let start = 0;
  if (place !== null) {
    const found = all.findIndex((row) => String(idOf(row)) === String(place[1]));
    // One that has gone meanwhile is looked for no more: the list goes on where it stood.
    start = found < 0 ? Math.max(0, Number(place[0]) || 0) : found + 1;
  }
  const rows = all.slice(start, start + limitOf(query));
  const end = start + rows.length;
  const more = !isFile(query) && rows.length > 0 && end < all.length;
  return { rows, next: more ? writeCursor([end - 1, idOf(rows.at(-1)!)]) : null };
}

/** A page of a list that is held whole: the rows after a place. `cursorOfRow` says where a row stands. */
export function pageAfter<T>(
  all: readonly T[],
  query: ListQuery,
  cursorOfRow: (row: T) => Place,
  isAfter: (row: T, place: Place) => boolean,
): { rows: T[]; next: string | null } {
  const place = placeOf(query);
  // A row that has gone is no loss: the list goes on with whatever comes after its place.
  const found = place === null ? 0 : all.findIndex((row) => isAfter(row, place));
  const start = found < 0 ? all.length : found;
  const rows = all.slice(start, start + limitOf(query));
  const more = !isFile(query) && start + rows.length < all.length;
  return { rows, next: more ? writeCursor(cursorOfRow(rows.at(-1)!)) : null };
}
