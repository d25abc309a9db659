/** Lists as files. */
import { Readable } from 'node:stream';
import { setImmediate as breathe } from 'node:timers/promises';
import { csvLine, type Cell } from '@/core/imports/cells';
import { listLearners } from '@/data/people/learners';
import type { Viewer } from '@/data/scope';
import { learnerFigures } from './figures';
import type { Runtime } from '../runtime';
import { openView } from './view';
import { workbook } from './xlsx';

export const EXPORT_VIEWS = ['learners'] as const;
export type ExportView = (typeof EXPORT_VIEWS)[number];
export type ExportFormat = 'csv' | 'xlsx' | 'json';

type Row = Record<string, unknown>;

function cellOf(value: unknown): Cell {
  if (value === null || value === undefined) return null;
  if (Array.isArray(value)) return value.join(' ');
  return typeof value === 'number' || typeof value === 'boolean' ? value : String(value);
}

/** Rows put into a file at a time, after which the server sees to others. */
const PIECE = 500;

async function* piecesOf<T>(rows: readonly T[]): AsyncGenerator<T[]> {
  for (let start = 0; start < rows.length; start += PIECE) {
    yield rows.slice(start, start + PIECE);
    await breathe();
  }
}

async function* csvPieces(columns: readonly string[], pieces: AsyncIterable<Cell[][]>): AsyncGenerator<string> {
  yield `\uFEFF${csvLine(columns)}`;
  for await (const lines of pieces) yield lines.map(csvLine).join('');
}

async function* jsonPieces(rows: readonly Row[]): AsyncGenerator<string> {
  yield '{"data":[';
  let between = '';
  for await (const piece of piecesOf(rows)) {
    yield between + piece.map((row) => JSON.stringify(row)).join(',');
    between = ',';
  }
  yield ']}';
}

/**
 * Rows as a file, made as fast as it is read. The columns are those of `columns`, so that an empty list still
 * has its heading.
 */
export function asFile(format: ExportFormat, columns: readonly string[], rows: readonly Row[]): Readable {
  if (format === 'json') return Readable.from(jsonPieces(rows), { objectMode: false });
  const cells = async function* () {
    for await (const piece of piecesOf(rows)) yield piece.map((row) => columns.map((column) => cellOf(row[column])));
  };
  const bytes = format === 'csv' ? csvPieces(columns, cells()) : workbook('Lee Shore', columns, cells());
  return Readable.from(bytes, { objectMode: false });
}

export const LEARNER_COLUMNS = [
  'learner_id',
  'name',
  'email',
  'phone',
  'organisation',
  'courses',
  'last_access',
  'days_quiet',
  'minutes_online',
  'drift',
  'band',
] as const;

/** A whole view of the viewer's, as a file. */
export async function exportView(
  runtime: Runtime,
  viewer: Viewer,
  _view: ExportView,
  format: ExportFormat,
): Promise<Readable> {
  const view = await openView(runtime, viewer);
  const everyone = { sort: 'name', descending: false, limit: 1_000_000, offset: 0 } as const;
  const { rows } = await listLearners(runtime.db, view, {}, everyone);
  return asFile(
    format,
    LEARNER_COLUMNS,
    rows.map((row) => learnerFigures(view.now, runtime.zone, row)),
  );
}
