/** How a table's columns are declared. */

/** A column: how SQLite stores it, and what a row of it holds. */
export interface Column<T> {
  sql: 'INTEGER' | 'TEXT' | 'REAL' | 'BLOB';
  isNullable: boolean;
  /** Only for the type: there is no such value. */
  holds?: T;
}

export const integer = <T extends number = number>(): Column<T> => ({ sql: 'INTEGER', isNullable: false });
export const text = <T extends string = string>(): Column<T> => ({ sql: 'TEXT', isNullable: false });
export const real: Column<number> = { sql: 'REAL', isNullable: false };
export const blob: Column<Buffer> = { sql: 'BLOB', isNullable: false };
export const orNull = <T>(column: Column<T>): Column<T | null> => ({ ...column, isNullable: true });

/** Tables by their names, each with its columns. */
export type TableColumns = Record<string, Record<string, Column<unknown>>>;
