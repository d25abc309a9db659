/** What every page of the frame needs: who looks, at what, as of when. */
import { notFound } from 'next/navigation';
import { labelOf } from '@/core/field-labels';
import { dateOfDay, dayOf } from '@/core/time/zone';
import { segmentLabel, logsCompleteTo } from '@/server/courses/reads';
import { countNotComing } from '@/server/imports/reads';
import type { DriftView } from '@/data/view';
import { isBeingRead } from '@/server/drift/reads';
import { readFirst } from '@/server/drift/until-read';
import type { Viewer } from '@/data/scope';
import { isLead } from '@/core/staff/rights';
import { InvalidInput, NotFound, type FieldFault } from '@/server/request/input';
import type { Asking } from '@/server/request/list';
import { validParams } from '@/server/request/valid-params';
import { runtime, type Runtime } from '@/server/runtime';
import { requireViewer } from '@/server/request/viewer';
import { openDriftView } from '@/server/request/view';
import { segmentNames } from '@/server/request/segment-names';

export type SearchParams = Promise<Record<string, string | string[] | undefined>>;

export interface FrameContext {
  runtime: Runtime;
  viewer: Viewer;
  view: DriftView;
  /** The part looked at, as it stands in the URL. */
  segmentKey: string | null;
  /** What that part is called; null for the whole caseload. */
  segmentLabel: string | null;
  logsTo: number | null;
  /** Files and addresses that should have come by themselves and did not. */
  notComing: number;
  /** The past date looked at, as it stands in the URL; null for now. */
  asOf: string | null;
  /** Are readings that are shown being made anew? */
  beingRead: boolean;
  /** What is wrong with the link, in words: then it is read without that. */
  fault: string | null;
  params: Record<string, string | undefined>;
}

/** One value of each parameter: a link that repeats one gets its first. */
export async function oneOfEach(search: SearchParams): Promise<Record<string, string | undefined>> {
  return Object.fromEntries(
    Object.entries(await search).map(([name, value]) => [name, Array.isArray(value) ? value[0] : value]),
  );
}

/**
 * Opens a page for the signed-in viewer. A part that is not theirs to see does not exist.
 * @param list the one that the page shows: what the link asks of it and cannot be is left out, and said
 */
export async function openFrame(search: SearchParams, list?: Asking): Promise<FrameContext> {
  const viewer = await requireViewer();
  const opened = await runtime();
  const { clock, zone } = opened;
  const given = await oneOfEach(search);
  const faults: string[] = [];
  const segmentKey = given.in ?? null;
  const names = segmentNames(given.in);
  if (segmentKey !== null && Object.keys(names).length === 0) notFound();
  const open = (date?: string) => orNotFound(openDriftView(opened, viewer, names, date));
  const view = await open(given.as_of).catch((error: unknown) => {
    if (!(error instanceof InvalidInput)) throw error;
    faults.push(`The date looked back to ${error.errors[0].message}. Showing now instead.`);
    delete given.as_of;
    return open();
  });
  const sound = list ? await orNotFound(validParams(opened, viewer, list, given)) : { params: given, faults: [] };
  faults.push(...sayFaults(sound.faults));
  const asOf = view.asOf === null ? null : dateOfDay(view.asOf);
  const [logsTo, notComing, beingRead, label] = await Promise.all([
    logsCompleteTo(opened, dayOf(clock.now(), zone)),
    countNotComing(opened, viewer),
    isBeingRead(opened, view, dayOf(clock.now(), zone)),
    segmentLabel(opened, view.segment),
  ]);
  if (beingRead && asOf !== null) await readFirst(opened, view);
  const fault = faults.join(' ') || null;
  return {
    runtime: opened,
    viewer,
    view,
    segmentKey,
    segmentLabel: label,
    logsTo,
    notComing,
    asOf,
    beingRead,
    fault,
    params: sound.params,
  };
}

/** What of a link cannot be shown, as a sentence; none where all can be. */
function sayFaults(faults: readonly FieldFault[]): string[] {
  if (faults.length === 0) return [];
  const says = faults.map(({ field, message }) => `“${labelOf(field)}” ${message}`).join('; ');
  return [`This link asks for what cannot be shown: ${says}. It is shown without that.`];
}

/** Shows the page for what does not exist, when that is what the work found. */
export async function orNotFound<T>(work: Promise<T>): Promise<T> {
  try {
    return await work;
  } catch (error) {
    if (error instanceof NotFound) notFound();
    throw error;
  }
}

/** For pages that only a lead has; for anybody else they do not exist. */
export async function requireLead(): Promise<Viewer> {
  const viewer = await requireViewer();
  if (!isLead(viewer)) notFound();
  return viewer;
}
