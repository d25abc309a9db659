/** Rows that share their keys, with the keys said once: a page carries every row to the browser as text. */
export interface PackedRows<T> {
  keys: (keyof T)[];
  values: T[keyof T][][];
}

/**
 * Packs rows of one shape. Every row must have the keys of the first.
 *
 * @example packRows([{ id: 1, name: 'Ines' }, { id: 2, name: 'Petra' }])
 * // { keys: ['id', 'name'], values: [[1, 'Ines'], [2, 'Petra']] }
 */
export function packRows<T extends object>(rows: readonly T[]): PackedRows<T> {
  const keys = Object.keys(rows[0] ?? {}) as (keyof T)[];
  return { keys, values: rows.map((row) => keys.map((key) => row[key])) };
}

/** The rows that were packed. */
export function unpackRows<T extends object>({ keys, values }: PackedRows<T>): T[] {
  return values.map((row) => Object.fromEntries(keys.map((key, place) => [key, row[place]])) as T);
}
