/** Lists as files. */
import ExcelJS from 'exceljs';
import { csvLine, safeCell, type Cell } from '@/core/imports/cells';
import { listLearners } from '@/data/people/learners';
import type { Viewer } from '@/data/scope';
import { learnerFigures } from './figures';
import type { Runtime } from '../runtime';
import { openView } from './view';

export const EXPORT_VIEWS = ['learners'] as const;
export type ExportView = (typeof EXPORT_VIEWS)[number];
export type ExportFormat = 'csv' | 'xlsx' | 'json';

type Row = Record<string, unknown>;

function cellOf(value: unknown): Cell {
  if (value === null || value === undefined) return null;
  if (Array.isArray(value)) return value.join(' ');
  return typeof value === 'number' || typeof value === 'boolean' ? value : String(value);
}

/** Rows as a file. The columns are those of `columns`, so that an empty list still has its heading. */
export async function asFile(format: ExportFormat, columns: readonly string[], rows: readonly Row[]): Promise<Buffer> {
  if (format === 'json') return Buffer.from(JSON.stringify({ data: rows }));
  const lines = rows.map((row) => columns.map((column) => cellOf(row[column])));
  if (format === 'csv') return Buffer.from(`\uFEFF${csvLine(columns)}${lines.map(csvLine).join('')}`);
  const book = new ExcelJS.Workbook();
  const sheet = book.addWorksheet('Lee Shore');
  sheet.addRow([...columns]).font = { bold: true };
  sheet.views = [{ state: 'frozen', ySplit: 1 }];
  for (const line of lines) sheet.addRow(line.map((cell) => (typeof cell === 'string' ? safeCell(cell) : cell)));
  return Buffer.from(await book.xlsx.writeBuffer());
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
): Promise<Buffer> {
  const view = await openView(runtime, viewer);
  const everyone = { sort: 'name', descending: false, limit: 1_000_000, offset: 0 } as const;
  const { rows } = await listLearners(runtime.db, view, {}, everyone);
  return asFile(
    format,
    LEARNER_COLUMNS,
    rows.map((row) => learnerFigures(view.now, runtime.zone, row)),
  );
}
