/** Lists as files. */
import { Readable } from 'node:stream';
import { setImmediate as breathe } from 'node:timers/promises';
import { csvLine, type Cell } from '@/core/imports/cells';
import { workbook } from './xlsx';

export type ExportFormat = 'csv' | 'xlsx' | 'json';

export const FILE_TYPES = {
  json: 'application/json',
  pdf: 'application/pdf',
  csv: 'text/csv; charset=utf-8',
  xlsx: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
} as const;

type Row = Record<string, unknown>;

function cellOf(value: unknown): Cell {
  if (value === null || value === undefined) return null;
  if (Array.isArray(value) && value.every((one) => typeof one !== 'object')) return value.join(' ');
  if (typeof value === 'object') return JSON.stringify(value);
  return typeof value === 'number' || typeof value === 'boolean' ? value : String(value);
}

/** Rows put into a file at a time, after which the server sees to others: fewer, where each has many cells. */
const CHUNK = { rows: 500, cells: 50_000 };

async function* chunksOf<T>(rows: readonly T[], columns = 1): AsyncGenerator<T[]> {
  const chunk = Math.max(1, Math.min(CHUNK.rows, Math.floor(CHUNK.cells / columns)));
  for (let start = 0; start < rows.length; start += chunk) {
    yield rows.slice(start, start + chunk);
    await breathe();
  }
}

/** Lines of CSV as they come. */
export async function* csvChunks(columns: readonly string[], chunks: AsyncIterable<Cell[][]>): AsyncGenerator<string> {
  yield `\uFEFF${csvLine(columns)}`;
  for await (const lines of chunks) yield lines.map(csvLine).join('');
}

async function* jsonChunks<T>(rows: readonly T[], figures: (row: T) => Row): AsyncGenerator<string> {
  yield '{"data":[';
  let between = '';
  for await (const chunk of chunksOf(rows)) {
    yield between + chunk.map((row) => JSON.stringify(figures(row))).join(',');
    between = ',';
  }
  yield ']}';
}

/**
 * Rows as a file, made as fast as it is read. The columns are those of `columns`, so that an empty list still
 * has its heading.
 *
 * @param figures what a row gives, worked out as its line is written: not of all of them at once
 */
export function asFile<T>(
  format: ExportFormat,
  columns: readonly string[],
  rows: readonly T[],
  figures: (row: T) => Row = (row) => row as Row,
): Readable {
  if (format === 'json') return Readable.from(jsonChunks(rows, figures), { objectMode: false });
  const cells = async function* () {
    for await (const chunk of chunksOf(rows, columns.length))
      yield chunk.map((row) => {
        const values = figures(row);
        return columns.map((column) => cellOf(values[column]));
      });
  };
  const bytes = format === 'csv' ? csvChunks(columns, cells()) : workbook('Lee Shore', columns, cells());
  return Readable.from(bytes, { objectMode: false });
}

/** A file as an answer. */
export function fileResponse(file: Readable, name: string, format: keyof typeof FILE_TYPES): Response {
  // What programs read is an answer, not a file to be saved.
  const headers = new Headers({ 'content-type': FILE_TYPES[format] });
  if (format !== 'json') headers.set('content-disposition', `attachment; filename="${name}.${format}"`);
  return new Response(Readable.toWeb(file) as ReadableStream, { headers });
}
