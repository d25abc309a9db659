/** Pages of what comes newest first, each going on from a row and not from a number of rows. */
import type { Knex } from 'knex';

export interface PageAfter {
  limit: number;
  /** The time and id of the row before the first; null for the beginning. */
  after?: readonly [at: string | number | null, id: string | number] | null;
}

/** Newest first, from a place on, and one more than asked for, which tells whether the list goes on. */
export function newestFirst(at: string, id: string, { limit, after }: PageAfter) {
  return (query: Knex.QueryBuilder) => {
    if (after) query.whereRaw('(??, ??) < (?, ?)', [at, id, after[0] ?? 0, after[1]]);
    query
      .orderBy([
        { column: at, order: 'desc' },
        { column: id, order: 'desc' },
      ])
      .limit(limit + 1);
  };
}

/** The page, without the row that told. */
export function cutPage<T>(found: readonly T[], limit: number): { rows: T[]; goesOn: boolean } {
  return { rows: found.slice(0, limit), goesOn: found.length > limit };
}
