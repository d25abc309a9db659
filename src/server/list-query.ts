/** What every list may be asked for: how many rows, from where, as what. */
import { IsIn, IsOptional, Matches } from 'class-validator';
import { InvalidInput } from './input';

export class ListQuery {
  @IsOptional() @Matches(/^([1-9]\d{0,2}|1000)$/, { message: 'is not a number from 1 to 1000' }) limit?: string;
  @IsOptional() @Matches(/^[A-Za-z0-9_-]{1,40}$/, { message: 'is not a cursor given by this list' }) cursor?: string;
  @IsOptional() @IsIn(['json', 'csv', 'xlsx'], { message: 'is not one of json, csv, xlsx' }) format?: string;
}

const EVERYTHING = 1_000_000;

/** Limit and offset of a list call. A cursor is the offset, opaque to whoever holds it. */
export function pageOf(query: ListQuery): { limit: number; offset: number } {
  if (query.format === 'csv' || query.format === 'xlsx') return { limit: EVERYTHING, offset: 0 };
  const offset = query.cursor ? Number(Buffer.from(query.cursor, 'base64url').toString()) : 0;
  if (!Number.isSafeInteger(offset) || offset < 0) {
    throw new InvalidInput([{ field: 'cursor', message: 'is not a cursor given by this list' }]);
  }
  return { limit: Number(query.limit ?? 100), offset };
}
