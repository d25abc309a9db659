/** What importers of tables have in common: rows checked cell by cell, stored where they differ. */
import type { CsvRow } from '@/core/imports/csv-reader';
import { checkRow } from '@/core/imports/heading';
import { dayFromDate } from '@/core/time/zone';
import { prepared, type RawConnection } from '../db';
import type { Outcome, ImportContext, Importer } from './importer';

type Values = Record<string, string>;
type Columns = Record<string, string | number | null>;

export const fault = (field: string, reason: string): Outcome => ({ field, reason });

/** A day number, null for an empty cell, undefined when the file has no such column. */
export function day(value: string | undefined): number | null | undefined {
  return value === undefined ? undefined : value === '' ? null : dayFromDate(value);
}

export function orNull(value: string | undefined): string | null | undefined {
  return value === '' ? null : value;
}

/** Leaves out columns that the file does not have: they stay as they are. */
export function given(columns: Record<string, string | number | null | undefined>): Columns {
  return Object.fromEntries(Object.entries(columns).filter(([, value]) => value !== undefined)) as Columns;
}

/** Inserts or updates a row found by `where`; tells whether anything changed. */
export function upsert(raw: RawConnection, table: string, where: Columns, columns: Columns, defaults: Columns = {}) {
  const keys = Object.keys(where);
  const condition = keys.map((key) => `${key} = ?`).join(' AND ');
  const stored = prepared(raw, `SELECT * FROM ${table} WHERE ${condition}`).get(...Object.values(where)) as
    (Columns & { id: number }) | undefined;
  if (!stored) {
    const row = { ...defaults, ...columns, ...where };
    const names = Object.keys(row);
    const { lastInsertRowid } = prepared(
      raw,
      `INSERT INTO ${table} (${names.join(', ')}) VALUES (${names.map(() => '?').join(', ')})`,
    ).run(...Object.values(row));
    return { id: Number(lastInsertRowid), changed: true };
  }
  const changes = Object.entries(columns).filter(([name, value]) => stored[name] !== value);
  if (changes.length > 0) {
    prepared(raw, `UPDATE ${table} SET ${changes.map(([name]) => `${name} = ?`).join(', ')} WHERE id = ?`).run(
      ...changes.map(([, value]) => value),
      stored.id,
    );
  }
  return { id: stored.id, changed: changes.length > 0 };
}

/** A importer for rows that are checked cell by cell first. */
export function checked(
  context: ImportContext,
  take: (values: Values) => Outcome,
  endBatch?: () => void,
  notes?: () => string[],
  state?: () => unknown,
): Importer {
  return {
    take(row: CsvRow) {
      const read = checkRow(context.heading, row.cells);
      return read.fault ?? take(read.values!);
    },
    endBatch,
    notes,
    state,
  };
}
