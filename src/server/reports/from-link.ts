/** What the page of a report does with the link that says what was chosen. */
import { IsIn } from 'class-validator';
import { LAYOUTS, type Layout } from '@/core/reports/definition';
import type { Viewer } from '@/data/scope';
import { InvalidInput, readInput, type Values } from '../request/input';
import type { Params } from '../request/list';
import type { Runtime } from '../runtime';
import { changeKept, keepReport, noteKept } from './kept';
import { openReport } from './open';
import { definitionOfLink } from './page';
import { FORMATS } from './rows-answer';
import { askForRun, type ReportFormat } from './runs';

const paramsIn = (link: unknown): Params => Object.fromEntries(new URLSearchParams(String(link ?? '')));

/** A name as a report has one. @throws InvalidInput */
function nameIn(values: Values): string {
  const name = typeof values.name === 'string' ? values.name.trim() : '';
  if (name === '') throw new InvalidInput([{ field: 'name', message: 'is missing' }]);
  if (name.length > 120) throw new InvalidInput([{ field: 'name', message: 'is longer than 120 characters' }]);
  return name;
}

/** Keeps what a link chooses under a name; gives the report's number. @throws InvalidInput, NotFound */
export async function keepFromLink(runtime: Runtime, viewer: Viewer, values: Values): Promise<number> {
  const name = nameIn(values);
  const { definition } = await definitionOfLink(runtime, viewer, paramsIn(values.link));
  return keepReport(runtime, viewer, { name, definition });
}

/** Saves what a link chooses in the report that it is of. @throws InvalidInput, NotFound */
export async function saveFromLink(runtime: Runtime, viewer: Viewer, values: Values): Promise<void> {
  const name = nameIn(values);
  const params = paramsIn(values.link);
  const { definition } = await definitionOfLink(runtime, viewer, params);
  await changeKept(runtime, viewer, params.report ?? '', { name, definition }, Number(values.revision));
}

class FileInput {
  @IsIn(FORMATS, { message: `is not one of ${FORMATS.join(', ')}` }) format!: ReportFormat;
  @IsIn(LAYOUTS, { message: `is not one of ${LAYOUTS.join(', ')}` }) layout!: Layout;
}

/** Has a long file of what a link chooses made beside the pages. @throws InvalidInput, NotFound */
export async function askForFile(
  runtime: Runtime,
  viewer: Viewer,
  link: string,
  format: string,
  layout: string,
): Promise<number> {
  const how = readInput(FileInput, { format, layout });
  const params = paramsIn(link);
  const { name, definition } = await definitionOfLink(runtime, viewer, params);
  const { ids } = await openReport(runtime, viewer, definition);
  await noteKept(runtime, viewer, params.report);
  return askForRun(runtime, viewer, { reportId: null, name, definition, ...how, total: ids.length });
}
