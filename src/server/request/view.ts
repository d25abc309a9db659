/** What somebody looks at: their scope, a part of it, and the day of the readings. */
import { dayFromDate, dayOf, startOfDay } from '@/core/time/zone';
import { findSegment } from '@/data/courses/segments';
import { keptSettings } from '@/data/drift/settings';
import type { Viewer } from '@/data/scope';
import { readSetting } from '@/data/settings';
import type { View, DriftView } from '@/data/view';
import { InvalidInput, NotFound } from './input';
import type { Runtime } from '../runtime';

export interface SegmentNames {
  course?: string;
  group?: string;
  organisation?: string;
}

/**
 * The view for a viewer, cut to a course, group or organisation, as of now or of a past date.
 * @throws NotFound for a part that is not there; InvalidInput for a date that is none or to come
 */
export async function openDriftView(
  runtime: Runtime,
  viewer: Viewer,
  names: SegmentNames = {},
  asOf?: string | number,
): Promise<DriftView> {
  const moment = await openView(runtime, viewer, names, asOf);
  const settings = await keptSettings(runtime.db);
  if (moment.asOf !== null) return { ...moment, readingDay: moment.asOf, settings };
  const stored = await readSetting(runtime.db, 'reading_day');
  return { ...moment, readingDay: stored === null ? dayOf(moment.now, runtime.zone) : Number(stored), settings };
}

/**
 * The same without a day of readings, for what needs none.
 * @throws NotFound, InvalidInput as openDriftView does
 */
export async function openView(
  { db, clock, zone }: Runtime,
  viewer: Viewer,
  names: SegmentNames = {},
  asOf?: string | number,
): Promise<View> {
  const segment = await findSegment(db, viewer, names);
  if (!segment) throw new NotFound('No such course, group or organisation');
  const now = clock.now();
  const day = asOf ? pastDay(asOf, dayOf(now, zone)) : null;
  return { viewer, segment, asOf: day, now: day === null ? now : startOfDay(day + 1, zone) - 1 };
}

/** The day of a date, or a day, before today; null for today. */
function pastDay(date: string | number, today: number): number | null {
  const day = typeof date === 'number' ? date : dayFromDate(date);
  if (day === null) throw new InvalidInput([{ field: 'as_of', message: 'is not a date such as 2026-11-24' }]);
  if (day > today) throw new InvalidInput([{ field: 'as_of', message: 'lies after today' }]);
  return day === today ? null : day;
}

/** The segment names behind `course:DRY`, `group:DRY/A` or `organisation:Name`. */
export function segmentNames(key: string | undefined): SegmentNames {
  if (!key) return {};
  const at = key.indexOf(':');
  const [kind, name] = [key.slice(0, at), key.slice(at + 1)];
  return kind === 'course' || kind === 'group' || kind === 'organisation' ? { [kind]: name } : {};
}

/** The first day of which there is a reading; null before any. */
export async function firstReadingDay({ db }: Pick<Runtime, 'db'>): Promise<number | null> {
  const stored = await readSetting(db, 'reading_first');
  return stored === null ? null : Number(stored);
}
