/** A view of a course, group or organisation, or of all that somebody sees: without a caseload, whose rule asks for one. */
import { dayFromDate, dayOf, startOfDay } from '@/core/time/zone';
import { findSegment } from '@/data/courses/segments';
import { keptSettings } from '@/data/drift/settings';
import type { Viewer } from '@/data/scope';
import { readSetting } from '@/data/settings';
import type { DriftView, View } from '@/data/view';
import type { Runtime } from '../runtime';
import { InvalidInput, NotFound } from './input';
import type { SegmentNames } from './segment-names';

type PlainNames = Omit<SegmentNames, 'caseload'>;

/** @throws NotFound for a part that is not there; InvalidInput for a date that is none or to come */
export async function openPlainView(
  { db, clock, zone }: Pick<Runtime, 'db' | 'clock' | 'zone'>,
  viewer: Viewer,
  { course, group, organisation }: PlainNames = {},
  asOf?: string | number,
): Promise<View> {
  const segment = await findSegment(db, viewer, { course, group, organisation });
  if (!segment) throw new NotFound('No such course, group or organisation');
  const now = clock.now();
  const day = asOf ? pastDay(asOf, dayOf(now, zone)) : null;
  return { viewer, segment, asOf: day, now: day === null ? now : startOfDay(day + 1, zone) - 1 };
}

/** A view with the day of the readings that it shows. */
export async function withReadings({ db, zone }: Pick<Runtime, 'db' | 'zone'>, moment: View): Promise<DriftView> {
  const settings = await keptSettings(db);
  if (moment.asOf !== null) return { ...moment, readingDay: moment.asOf, settings };
  const stored = await readSetting(db, 'reading_day');
  return { ...moment, readingDay: stored === null ? dayOf(moment.now, zone) : Number(stored), settings };
}

/** The day of a date, or a day, before today; null for today. */
function pastDay(date: string | number, today: number): number | null {
  const day = typeof date === 'number' ? date : dayFromDate(date);
  if (day === null) throw new InvalidInput([{ field: 'as_of', message: 'is not a date such as 2026-11-24' }]);
  if (day > today) throw new InvalidInput([{ field: 'as_of', message: 'lies after today' }]);
  return day === today ? null : day;
}
