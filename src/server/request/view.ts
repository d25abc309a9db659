/** What somebody looks at: their scope, a part of it, and the day of the readings. */
import type { Viewer } from '@/data/scope';
import { readSetting } from '@/data/settings';
import type { DriftView, View } from '@/data/view';
import { caseloadInView } from '../people/caseloads';
import type { Runtime } from '../runtime';
import { openPlainView, withReadings } from './plain-view';
import type { SegmentNames } from './segment-names';

/**
 * The view for a viewer, cut to a course, group, organisation or caseload, as of now or of a past date.
 * @throws NotFound for a part that is not there; InvalidInput for a date that is none or to come
 */
export async function openDriftView(
  runtime: Runtime,
  viewer: Viewer,
  names: SegmentNames = {},
  asOf?: string | number,
): Promise<DriftView> {
  return withReadings(runtime, await openView(runtime, viewer, names, asOf));
}

/**
 * The same without a day of readings, for what needs none.
 * @throws NotFound, InvalidInput as openDriftView does
 */
export async function openView(
  runtime: Runtime,
  viewer: Viewer,
  names: SegmentNames = {},
  asOf?: string | number,
): Promise<View> {
  const view = await openPlainView(runtime, viewer, names, asOf);
  if (names.caseload !== undefined) view.segment.caseload = await caseloadInView(runtime, viewer, names.caseload);
  return view;
}

/** The first day of which there is a reading; null before any. */
export async function firstReadingDay({ db }: Pick<Runtime, 'db'>): Promise<number | null> {
  const stored = await readSetting(db, 'reading_first');
  return stored === null ? null : Number(stored);
}
