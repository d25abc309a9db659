/** A report as a file: lines of CSV, typed cells of a workbook, JSON. */
import { Readable } from 'node:stream';
import { UNITS, isFigure, jsonCell, plainCellOf, titleWithUnit, type CellKind } from '@/core/reports/cells';
import type { Layout } from '@/core/reports/definition';
import { fullName } from '@/core/people/name';
import { csvChunks } from '../request/exports';
import { dateCell, timeCell, workbook, type SheetCell, type SheetRows } from '../request/xlsx';
import type { Runtime } from '../runtime';
import type { OpenReport } from './open';
import type { RowTime } from './row';
import { reportRows, valuesOf, type AveragedRow } from './rows';

/** Widths of columns in signs, by what is in them. */
const WIDTHS: Partial<Record<CellKind, number>> = { instant: 17, day: 12, table: 60, pace: 30, texts: 30 };
const TEXT_WIDTH = 24;
const FIGURE_WIDTH = 11;

function widthOf(kind: CellKind, title: string): number {
  const usual = WIDTHS[kind] ?? (isFigure(kind) ? FIGURE_WIDTH : TEXT_WIDTH);
  return Math.min(60, Math.max(usual, Math.min(20, title.length + 3)));
}

function sheetCell(kind: CellKind, value: unknown, at: RowTime): SheetCell {
  if (value === null || value === undefined) return null;
  const number = value as number;
  if (kind === 'day') return dateCell(number);
  if (kind === 'instant') return timeCell(number, at.zone);
  if (kind === 'share') return { value: number, as: 'share' };
  if (kind === 'percent') return { value: number, as: 'percent' };
  return plainCellOf(kind, value, at);
}

/** Names of the heads as files have them, each of its own. */
function headings({ heads }: OpenReport): string[] {
  return heads.map(({ name }) => name);
}

async function* csvRows(report: OpenReport, pieces: AsyncIterable<AveragedRow[]>) {
  for await (const rows of pieces)
    yield rows.map((row) =>
      valuesOf(report, row).map((value, at) => plainCellOf(report.heads[at].kind, value, report.at)),
    );
}

/** Rows in typed cells; with a sheet for each learner where they have pages of their own. */
async function* sheetRows(
  report: OpenReport,
  pieces: AsyncIterable<AveragedRow[]>,
  layout: Layout,
): AsyncGenerator<SheetRows> {
  const cells = (row: AveragedRow) =>
    valuesOf(report, row).map((value, at) => sheetCell(report.heads[at].kind, value, report.at));
  for await (const rows of pieces) {
    if (layout === 'table') yield { rows: rows.map(cells) };
    else
      for (const own of byLearner(rows)) {
        const { learner } = own[0].row;
        yield { sheet: fullName(learner) || learner.learner_id, rows: own.map(cells) };
      }
  }
}

/** Rows of one learner after the other: they stand together in a piece, and none is split. */
export function byLearner(rows: readonly AveragedRow[]): AveragedRow[][] {
  const groups: AveragedRow[][] = [];
  for (const one of rows) {
    const last = groups.at(-1);
    if (last && last[0].row.learner.id === one.row.learner.id) last.push(one);
    else groups.push([one]);
  }
  return groups;
}

/** A row as programs read it. */
function rowObject(report: OpenReport, row: AveragedRow): Record<string, unknown> {
  return Object.fromEntries(
    valuesOf(report, row).map((value, at) => [
      report.heads[at].name,
      jsonCell(report.heads[at].kind, value, report.at),
    ]),
  );
}

async function* jsonRows(report: OpenReport, pieces: AsyncIterable<AveragedRow[]>): AsyncGenerator<string> {
  yield '{"data":[';
  let total = 0;
  for await (const rows of pieces) {
    if (rows.length === 0) continue;
    yield (total === 0 ? '' : ',') + rows.map((row) => JSON.stringify(rowObject(report, row))).join(',');
    total += rows.length;
  }
  const columns = report.heads.map(({ name, title, kind }) => ({ name, title, unit: UNITS[kind] }));
  const gone = report.gone.length > 0 ? { gone: report.gone } : {};
  yield `],"next":null,"total":${total},${JSON.stringify({ columns, ...gone }).slice(1)}`;
}

interface FileOptions {
  title?: string;
  layout?: Layout;
  /** Told how many learners are written, now and then; false ends it. */
  onLearner?: (done: number) => Promise<boolean>;
}

/** Pieces of rows as they come, told of to whoever counts. @throws Cancelled */
async function* counted(pieces: AsyncIterable<AveragedRow[]>, onLearner: FileOptions['onLearner']) {
  let done = 0;
  for await (const rows of pieces) {
    yield rows;
    done += byLearner(rows).length;
    if ((await onLearner?.(done)) === false) throw new Cancelled();
  }
}

/** Somebody cancelled it while it was being written. */
export class Cancelled extends Error {
  override name = 'Cancelled';
}

/** An open report as a stream of a file. */
export function reportFile(
  runtime: Runtime,
  report: OpenReport,
  format: 'csv' | 'xlsx' | 'json',
  { title = 'Report', layout = 'table', onLearner }: FileOptions = {},
): Readable {
  const pieces = counted(reportRows(runtime, report), onLearner);
  if (format === 'json') return Readable.from(jsonRows(report, pieces), { objectMode: false });
  if (format === 'csv')
    return Readable.from(csvChunks(headings(report), csvRows(report, pieces)), { objectMode: false });
  const columns = report.heads.map((head) => ({ title: titleWithUnit(head), width: widthOf(head.kind, head.title) }));
  return Readable.from(workbook(title, columns, sheetRows(report, pieces, layout)), { objectMode: false });
}
