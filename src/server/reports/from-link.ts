/** What the page of a report does with the link that says what was chosen. */
import { IsIn } from 'class-validator';
import { LAYOUTS, type Layout } from '@/core/reports/definition';
import { learnersById } from '@/data/people/learners';
import type { Viewer } from '@/data/scope';
import { InvalidInput, NotFound, readInput, type Values } from '../request/input';
import type { Params } from '../request/list';
import { openDriftView } from '../request/view';
import type { Runtime } from '../runtime';
import { changeKept, keepReport, noteKept } from './kept';
import { paramsOf } from './link';
import { openReport } from './open';
import { definitionOfLink } from './page';
import { READY_REPORTS, WHOLE_LEARNER } from './ready';
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

/** Learners whom a link names one by one; more are chosen by a filter, which no address is too short for. */
const MOST_NAMED = 250;

/**
 * The link of the ready report of one learner whole, on some learners that were selected.
 * @throws InvalidInput for too many, NotFound where none of them is in scope
 */
export async function linkOn(runtime: Runtime, viewer: Viewer, ids: readonly number[]): Promise<string> {
  if (ids.length > MOST_NAMED) {
    const message = `are more than ${MOST_NAMED}: narrow the list to them, and press Report above it`;
    throw new InvalidInput([{ field: 'learners', message }]);
  }
  const rows = await learnersById(runtime.db, await openDriftView(runtime, viewer), ids);
  if (rows.length === 0) throw new NotFound('Nobody of them is in your sight.');
  const { definition } = READY_REPORTS[WHOLE_LEARNER];
  const learners = rows.map(({ learner_id }) => encodeURIComponent(learner_id)).join(',');
  const params = Object.entries({ ...paramsOf(definition, WHOLE_LEARNER), learners });
  const given = params.filter((pair): pair is [string, string] => Boolean(pair[1]));
  return `/reports/choose?${new URLSearchParams(given)}`;
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
