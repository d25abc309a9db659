/** A report's rows as the API and the page give them: at once where it is short, as a run where it is long. */
import { IsIn, IsOptional } from 'class-validator';
import { LAYOUTS, type Layout, type RowsPer } from '@/core/reports/definition';
import type { Viewer } from '@/data/scope';
import { fileResponse } from '../request/exports';
import { fileName } from '../request/file-name';
import { InvalidInput, readInput, type Values } from '../request/input';
import type { Params } from '../request/list';
import type { Runtime } from '../runtime';
import { noteKept, openKept } from './kept';
import { makeFile } from './make';
import { openReport, type OpenReport } from './open';
import { definitionOfLink } from './page';
import { askForRun, fileOfRun, runOf, type ReportFormat } from './runs';

export const FORMATS = ['json', 'csv', 'xlsx', 'pdf'] as const;

class RowsQuery {
  @IsOptional() @IsIn(FORMATS, { message: `is not one of ${FORMATS.join(', ')}` }) format?: ReportFormat;
  @IsOptional() @IsIn(LAYOUTS, { message: `is not one of ${LAYOUTS.join(', ')}` }) layout?: Layout;
}

/** Learners whose pages are made while somebody waits: beyond, they are made beside the pages. */
const PAGES = 60;
/** Rows of a table on paper, as many as are made in a few seconds; it is gone through once for every ten columns. */
const ROWS = 1000;
const COLUMNS_AT_ONCE = 10;
/** Rows of a learner, about. */
const ROWS_OF_ONE: Record<RowsPer, number> = { learner: 1, enrolment: 1.5, item: 40, session: 15 };
/** Sheets of a workbook. */
const SHEETS = 500;

/** Is a report's file made beside the pages? */
export function isLong(
  format: ReportFormat,
  layout: Layout,
  { learners, per, heads }: { learners: number; per: RowsPer; heads: number },
): boolean {
  if (format === 'xlsx') return layout === 'pages' && learners > SHEETS;
  if (format !== 'pdf') return false;
  if (layout === 'pages') return learners > PAGES;
  return learners * ROWS_OF_ONE[per] * Math.ceil(heads / COLUMNS_AT_ONCE) > ROWS;
}

/** How large an open report is. */
const sizeOf = ({ ids, definition, heads }: OpenReport) => ({
  learners: ids.length,
  per: definition.per,
  heads: heads.length,
});

/** @throws InvalidInput, NotFound */
export async function rowsAnswer(runtime: Runtime, viewer: Viewer, id: string, values: Values): Promise<Response> {
  const { format = 'json', layout = 'table' } = readInput(RowsQuery, values);
  const { shown, open } = await openKept(runtime, viewer, id);
  const { definition } = open;
  if (isLong(format, layout, sizeOf(open))) {
    const run = await askForRun(runtime, viewer, {
      reportId: shown.isReady ? null : Number(id),
      name: shown.name,
      definition,
      format,
      layout,
      total: open.ids.length,
    });
    return Response.json({ href: `/api/v1/reports/runs/${run}`, progress: 0 }, { status: 202 });
  }
  const file = await makeFile(runtime, { report: definition, title: shown.name, viewer, format, layout });
  return fileResponse(file, fileName(shown.name), format);
}

/** A long report: how far it is, or its file. @throws NotFound */
export async function runAnswer(runtime: Runtime, viewer: Viewer, id: string): Promise<Response> {
  const run = await runOf(runtime, viewer, id);
  const href = `/api/v1/reports/runs/${run.id}`;
  if (run.state === 'waiting' || run.state === 'running') {
    const progress = run.total === 0 ? 0 : Math.min(0.99, run.done / run.total);
    return Response.json({ href, state: run.state, progress }, { status: 202 });
  }
  if (run.state !== 'done')
    return Response.json({ href, state: run.state, progress: null, error: run.error }, { status: 410 });
  return madeFile(runtime, viewer, id);
}

/** The file of a long report that has been made. @throws NotFound */
export async function madeFile(runtime: Runtime, viewer: Viewer, id: string): Promise<Response> {
  const { run, file } = await fileOfRun(runtime, viewer, id);
  return fileResponse(file, fileName(run.name), run.format);
}

/** What a link chooses as a file. @throws InvalidInput, also where it is too long to wait for; NotFound */
export async function linkFile(runtime: Runtime, viewer: Viewer, params: Params): Promise<Response> {
  const { format = 'csv', layout = 'table' } = readInput(RowsQuery, { format: params.format, layout: params.layout });
  const { name, definition } = await definitionOfLink(runtime, viewer, params);
  if (isLong(format, layout, sizeOf(await openReport(runtime, viewer, definition))))
    throw new InvalidInput([{ field: 'format', message: 'is of too many learners to wait for: have it made' }]);
  await noteKept(runtime, viewer, params.report);
  const file = await makeFile(runtime, { report: definition, title: name, viewer, format, layout });
  const answer = fileResponse(file, fileName(name), format);
  // To be printed it is shown, not saved.
  if (params.print) answer.headers.set('content-disposition', 'inline');
  return answer;
}
