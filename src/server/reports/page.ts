/** The page on which a report is chosen: what the link says, its first rows, and what can be done with it. */
import type { ReportDefinition } from '@/core/reports/definition';
import { isStaffMember } from '@/core/staff/rights';
import { categoriesOf, itemsToldOf } from '@/data/courses/items';
import type { Viewer } from '@/data/scope';
import { InvalidInput, type Values } from '../request/input';
import type { Params } from '../request/list';
import { segmentNames } from '../request/segment-names';
import type { Runtime } from '../runtime';
import { readDefinition } from './define';
import { colleaguesFor, peopleOfKept, reportOf, type ReportShown } from './kept';
import { chosenOf } from './link';
import { previewOfDefinition, type Preview } from './preview';

export interface ChoosePage {
  report: ReportShown | null;
  /** What was left out of what the link asks, each in a sentence's half. */
  left: string[];
  /** What is wrong with it, by its field; null where there are rows to show. */
  fault: string | null;
  preview: Preview | null;
  /** Learners who were chosen one by one. */
  people: number | null;
  /** Items of the course that is looked at. */
  items: { id: string; title: string }[];
  colleagues: { id: number; name: string }[];
  /** To whom a kept report may be sent. */
  receivers: { id: number; name: string }[];
  values: Values;
}

/** The definition that a link chooses, with the people of the kept report that it is of. @throws InvalidInput, NotFound */
export async function definitionOfLink(
  runtime: Runtime,
  viewer: Viewer,
  params: Params,
): Promise<{ name: string; definition: ReportDefinition }> {
  const { values } = chosenOf(params);
  const { definition } = await readDefinition(runtime, viewer, { ...values, name: 'Report' });
  const people =
    params.report === undefined || params.learners ? null : await peopleOfKept(runtime, viewer, params.report);
  const name = params.report === undefined ? 'Report' : (await reportOf(runtime, viewer, params.report)).name;
  return { name, definition: people === null ? definition : { ...definition, whose: { ...definition.whose, people } } };
}

/** @throws NotFound for a report that is not the viewer's */
export async function choosePage(runtime: Runtime, viewer: Viewer, params: Params): Promise<ChoosePage> {
  const report = params.report === undefined ? null : await reportOf(runtime, viewer, params.report);
  const { values, left } = chosenOf(params);
  const course =
    segmentNames(params.in).course ?? segmentNames(params.in).group?.split('/')[0] ?? params.course ?? null;
  const known = report && !report.isReady && isStaffMember(viewer) ? await colleaguesFor(runtime, viewer) : null;
  const receivers = known === null ? [] : [{ id: viewer.staffId, name: viewer.name }, ...known];
  const colleagues = report?.isOwn ? (known ?? []) : [];
  const base = { report, left, people: null, colleagues, receivers, values };
  try {
    const { definition } = await definitionOfLink(runtime, viewer, params);
    const preview = await previewOfDefinition(runtime, viewer, definition, params.rows === 'more' ? 'more' : 'first');
    // The course is the viewer's: the report could be opened.
    const people = definition.whose.people?.length ?? null;
    const [items, categories] = await Promise.all([itemsToldOf(runtime.db, course), categoriesOf(runtime.db, course)]);
    const named = categories.map((name) => ({ id: name, title: `Category: ${name}` }));
    return { ...base, people, preview, items: [...named, ...items], fault: null };
  } catch (error) {
    if (!(error instanceof InvalidInput)) throw error;
    return {
      ...base,
      preview: null,
      items: [],
      fault: error.errors.map(({ message, field }) => `“${field}” ${message}`).join('; '),
    };
  }
}
