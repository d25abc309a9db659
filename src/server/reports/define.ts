/** What a report is asked to be, checked: every fault with the field it is in. */
import { ArrayMaxSize, IsArray, IsIn, IsNotEmpty, IsObject, IsOptional, IsString, MaxLength } from 'class-validator';
import { IsInstant } from '@/core/imports/validators';
import {
  AUDIENCES,
  AVERAGES,
  ONLY,
  REPORT_PERIODS,
  ROWS_PER,
  type Only,
  type ReportDefinition,
  type Whose,
} from '@/core/reports/definition';
import { parseInstant } from '@/core/time/instant';
import { findLearners } from '@/data/people/learners';
import type { Viewer } from '@/data/scope';
import { InvalidInput, readInput, type FieldFault, type Values } from '../request/input';
import { requireOrder } from '../request/period';
import type { Runtime } from '../runtime';
import { readFilter } from '../people/learner-filter';
import { columnNamed, fits, mayBeFor } from './columns';

const oneOf = (choices: readonly string[]) => ({ message: `is not one of ${choices.join(', ')}` });
const named = (length: number) => ({ message: `is longer than ${length} characters` });

const MOST = { columns: 200, items: 200, learners: 20_000, faults: 20 };

/** A report's name and what it is made of, as forms and programs send it. */
class DefinitionInput {
  // The one that stands last is asked first.
  @MaxLength(120, named(120))
  @IsString({ message: 'is not a text' })
  @IsNotEmpty({ message: 'is missing' })
  name!: string;
  @IsOptional() @IsObject({ message: 'is not an object such as {"course": "DRY"}' }) whose?: object;
  @IsIn(ROWS_PER, oneOf(ROWS_PER)) per!: ReportDefinition['per'];
  @ArrayMaxSize(MOST.columns, { message: `are more than ${MOST.columns}` })
  @IsArray({ message: 'is not a list of columns' })
  columns!: unknown[];
  @IsOptional()
  @ArrayMaxSize(MOST.items, { message: `are more than ${MOST.items}` })
  @IsArray({ message: 'is not a list of items and categories' })
  items?: unknown[];
  @IsOptional() @IsInstant() from?: string;
  @IsOptional() @IsInstant() to?: string;
  @IsOptional() @IsIn(Object.keys(REPORT_PERIODS), oneOf(Object.keys(REPORT_PERIODS))) period?: never;
  @IsOptional() @IsIn(AVERAGES, oneOf(AVERAGES)) averages?: ReportDefinition['averages'];
  @IsOptional() @IsIn(Object.keys(ONLY), oneOf(Object.keys(ONLY))) only?: Only;
  @IsIn(AUDIENCES, oneOf(AUDIENCES)) for!: ReportDefinition['for'];
}

const PARTS = ['course', 'group', 'organisation', 'caseload'] as const;
const WHOSE = [...PARTS, 'learners', 'filter'];

/** Whom a report is of, as it was sent: learners by the ids that whoever asks knows them by. */
function readWhose(sent: object | undefined): { whose: Whose; learners: string[] | null; faults: FieldFault[] } {
  const given = { ...(sent as Values) };
  const faults: FieldFault[] = [];
  const whose: Whose = {};
  let chosen: string[] | null = null;
  const fault = (field: string, message: string) => void faults.push({ field: `whose.${field}`, message });
  for (const name of Object.keys(given).slice(0, MOST.faults))
    if (!WHOSE.includes(name)) fault(name.slice(0, 60), `is not one of ${WHOSE.join(', ')}`);
  for (const part of PARTS) {
    const sent = given[part];
    // A caseload's number, as it is listed.
    const value = part === 'caseload' && typeof sent === 'number' ? String(sent) : sent;
    if (value === undefined || value === null || value === '') continue;
    if (typeof value !== 'string') fault(part, 'is not a text');
    else if (value.length > 200) fault(part, 'is too long');
    else whose[part] = value;
  }
  const { learners, filter } = given;
  if (learners !== undefined && learners !== null) {
    const ids = Array.isArray(learners) ? learners.map((id) => (typeof id === 'number' ? String(id) : id)) : null;
    if (ids === null || !ids.every((id) => typeof id === 'string' && id !== '' && id.length <= 200))
      fault('learners', 'is not a list of learners’ ids');
    else if (ids.length > MOST.learners) fault('learners', `are more than ${MOST.learners}`);
    else chosen = [...new Set(ids as string[])];
  }
  if (filter !== undefined && filter !== null && filter !== '') {
    const read = readFilter(filter);
    if ('filter' in read) whose.filter = read.filter;
    else fault(read.fault.name === undefined ? 'filter' : `filter.${read.fault.name}`, read.fault.message);
  }
  return { whose, learners: chosen, faults };
}

function readTexts(sent: readonly unknown[], field: string): { texts: string[]; faults: FieldFault[] } {
  const texts = sent.filter((one): one is string => typeof one === 'string' && one !== '' && one.length <= 200);
  if (texts.length === sent.length) return { texts: [...new Set(texts)], faults: [] };
  return { texts: [], faults: [{ field, message: 'holds something that is no name' }] };
}

/** What is wrong with the columns of a report; nothing where all is well. */
function columnFaults({ columns, per, for: audience, items }: ReportDefinition): FieldFault[] {
  const faults: FieldFault[] = [];
  const fault = (message: string) => void faults.push({ field: 'columns', message });
  if (columns.length === 0) fault('is missing');
  for (const name of columns) {
    const column = columnNamed(name);
    if (!column) fault(`has no column ${name}`);
    else if (!mayBeFor(audience, column)) fault(`has ${name}, which may not leave the staff`);
    else if (!fits(per, column)) fault(`has ${name}, which a row for each ${per} does not have`);
    else if (column.each && (items ?? []).length === 0)
      faults.push({ field: 'items', message: `is missing: ${name} has a column for each` });
  }
  return faults;
}

/**
 * A report's definition and name, from a form or a program.
 * @throws InvalidInput naming every field that is wrong
 */
export async function readDefinition(
  { db, zone }: Pick<Runtime, 'db' | 'zone'>,
  viewer: Viewer,
  values: Values,
): Promise<{ name: string; definition: ReportDefinition }> {
  // Yes is the course's: what most mean by an average.
  const averages = values.averages === true ? 'course' : values.averages || undefined;
  const input = readInput(DefinitionInput, { ...values, averages }, zone);
  const { whose, learners, faults } = readWhose(input.whose);
  const columns = readTexts(input.columns, 'columns');
  const items = readTexts(input.items ?? [], 'items');
  faults.push(...columns.faults, ...items.faults);
  if (input.period !== undefined && (input.from ?? input.to) !== undefined)
    faults.push({ field: 'period', message: 'stands beside from or to: give one or the other' });
  if (input.only !== undefined && ONLY[input.only].per !== input.per)
    faults.push({ field: 'only', message: `is of rows for each ${ONLY[input.only].per}` });
  const definition: ReportDefinition = {
    whose,
    per: input.per,
    columns: columns.texts,
    ...(items.texts.length > 0 && { items: items.texts }),
    ...(input.from !== undefined && { from: input.from }),
    ...(input.to !== undefined && { to: input.to }),
    ...(input.period !== undefined && { period: input.period }),
    ...(input.averages !== undefined && { averages: input.averages }),
    ...(input.only !== undefined && { only: input.only }),
    for: input.for,
  };
  if (learners !== null) {
    const numbers = await findLearners(db, viewer, learners);
    const missing = learners.find((id) => !numbers.has(id));
    if (missing !== undefined)
      faults.push({ field: 'whose.learners', message: `names somebody who is not there: ${missing}` });
    else whose.people = [...new Set(learners.map((id) => numbers.get(id)!))];
  }
  if (columns.faults.length === 0) faults.push(...columnFaults(definition));
  if (faults.length > 0) throw new InvalidInput(faults);
  if (definition.from !== undefined && definition.to !== undefined)
    requireOrder(parseInstant(definition.from, zone)!, parseInstant(definition.to, zone)!);
  return { name: input.name, definition };
}
