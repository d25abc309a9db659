/** The first rows of a report while it is being chosen. */
import { isFigure, sayCell } from '@/core/reports/cells';
import type { ReportDefinition } from '@/core/reports/definition';
import type { Viewer } from '@/data/scope';
import type { Values } from '../request/input';
import type { Runtime } from '../runtime';
import { readDefinition } from './define';
import { openReport } from './open';
import { reportRows, valuesOf } from './rows';

/** Rows shown, and as many as are shown when somebody asks for more. */
const ROWS = { first: 25, more: 500 };
/** Learners looked through for them at a time: one more than rows, so that one look tells whether there are more. */
const LEARNERS = ROWS.first + 1;
/** Learners looked through at most, where few of them have a row. */
const MOST_LEARNERS = 500;

export interface Preview {
  heads: { name: string; title: string; says: string; isFigure: boolean; isLong: boolean }[];
  /** Cells in words. */
  lines: string[][];
  learners: number;
  /** Are there more rows than are shown? */
  goesOn: boolean;
  gone: readonly string[];
}

/** @throws InvalidInput naming every field that is wrong */
export async function previewOf(runtime: Runtime, viewer: Viewer, values: Values): Promise<Preview> {
  const { definition } = await readDefinition(runtime, viewer, { name: 'Preview', ...values });
  return previewOfDefinition(runtime, viewer, definition);
}

/** The same of a definition as it is kept. @throws InvalidInput */
export async function previewOfDefinition(
  runtime: Runtime,
  viewer: Viewer,
  definition: ReportDefinition,
  how: keyof typeof ROWS = 'first',
): Promise<Preview> {
  const most = ROWS[how];
  const report = await openReport(runtime, viewer, definition, { first: Math.max(most, MOST_LEARNERS) });
  const lines: string[][] = [];
  let from = 0;
  for (; from < report.ids.length && lines.length <= most; from += LEARNERS) {
    for await (const rows of reportRows(runtime, report, { from, learners: LEARNERS }))
      for (const row of rows) {
        const values = valuesOf(report, row);
        lines.push(report.heads.map(({ kind }, at) => sayCell(kind, values[at], report.at)));
      }
  }
  return {
    heads: report.heads.map(({ name, title, says, kind }) => ({
      name,
      title,
      says,
      isFigure: isFigure(kind),
      isLong: ['texts', 'table', 'pace'].includes(kind),
    })),
    lines: lines.slice(0, most),
    learners: report.learners,
    goesOn: lines.length > most || from < report.learners,
    gone: report.gone,
  };
}
