/** The Watch: who needs somebody today, in order of need. */
import type { BandEdges } from '@/core/drift/bands';
import { PARTS, byPart, partOf, type Part, type Tried } from '@/core/drift/order';
import { changedBetween, courseSettingOn, settingOn } from '@/core/drift/setting';
import type { Band } from '@/core/drift/bands';
import type { PackedPerson } from '@/core/drift/shoreline';
import type { Person } from '@/core/contact/person';
import { dayOf } from '@/core/time/zone';
import { caseload, type CaseloadRow } from '@/data/people/caseload';
import { namesOf } from '@/data/people/learners';
import type { DriftView } from '@/data/view';
import { setAsideIds } from '@/data/drift/set-aside';
import { triedWithin } from '@/data/drift/tried';
import { fullName } from '@/core/people/name';
import { explainPeople, tellApart } from '../people/people';
import type { Runtime } from '../runtime';

/** People on one page of the Watch. */
export const WATCH_PAGE = 30;

export type BandFilter = '0' | '1' | '2' | 'none';
export const BAND_FILTERS: readonly BandFilter[] = ['2', '1', '0', 'none'];

/** Days of wake beside a name. */
const WAKE_DAYS = 28;

/** How many a part of the Watch has, and how many came to it and went from it within a week. */
export interface PartCount {
  count: number;
  came: number;
  went: number;
}

export interface WatchPage {
  people: Person[];
  /** Where each of them stands, by their id. */
  places: ReadonlyMap<number, WatchRow>;
  /** The first of them with all that the panel shows; null for nobody. */
  first: Person | null;
  parts: Record<Part, PartCount>;
  /** How many of the part each band has. */
  counts: Record<BandFilter, number>;
  /** How many of them have come to it within a week: from better, or back from worse for those on course. */
  fresh: Record<BandFilter, number>;
  /** Everybody in the part, for the Shoreline. */
  shoreline: PackedPerson[];
  /** Where slipping and adrift begin, of the course looked at or of the programme. */
  edges: BandEdges;
  /** The day on which what the Watch goes by was changed, where it is other than a week before; null where it is not. */
  changedOn: number | null;
  /** People listed in all, everybody in the part, and everybody in view. */
  listed: number;
  inPart: number;
  total: number;
  page: number;
  pages: number;
}

/** Somebody in view, and the part of the Watch in which they stand. */
export interface WatchRow extends CaseloadRow {
  part: Part;
  /** The last time somebody tried to reach them; null where that is over. */
  tried: Tried | null;
  /** The part a week ago; null where nothing was read of them then. */
  partBefore: Part | null;
}

function filterKey(band: Band | null): BandFilter {
  return band === null ? 'none' : (String(band) as BandFilter);
}

/** Everybody in view in the Watch's order, part by part, but those whom the viewer has set aside. */
export async function needOrder({ db, zone }: Runtime, view: DriftView): Promise<WatchRow[]> {
  // Of whom one waits for is known at once; a reading may still be of the day before.
  const day = dayOf(view.now, zone);
  const [rules, rulesBefore] = [day, day - 7].map((on) => settingOn(view.settings, on).parts);
  const [rows, aside, tried, triedBefore] = await Promise.all([
    caseload(db, view),
    // A past day is shown as it was, with everybody.
    view.asOf === null ? setAsideIds(db, view.viewer, dayOf(view.now, zone)) : [],
    triedWithin(db, view, { days: rules.contacted, day, zone }),
    triedWithin(db, view, { days: rulesBefore.contacted, day: day - 7, zone }),
  ]);
  const off = new Set(aside);
  const parts = Object.fromEntries(PARTS.map((part) => [part, []])) as unknown as Record<Part, WatchRow[]>;
  for (const row of rows) {
    // Each field by its name: a row of the database that is spread stays slow to read, and there are thousands.
    const {
      learnerId,
      score,
      band,
      daysAway,
      never,
      weekAgo,
      weekAgoBand,
      weekAgoDaysAway,
      weekAgoNever,
      weekAgoRead,
    } = row;
    if (off.has(learnerId)) continue;
    const attempt = tried.get(learnerId) ?? null;
    const part = partOf({ band, score, daysAway, never, tried: attempt }, day, rules);
    const before = {
      band: weekAgoBand,
      score: weekAgo,
      daysAway: weekAgoDaysAway,
      never: weekAgoNever,
      tried: triedBefore.get(learnerId) ?? null,
    };
    const partBefore = weekAgoRead === 0 ? null : partOf(before, day - 7, rulesBefore);
    parts[part].push({
      learnerId,
      score,
      band,
      daysAway,
      never,
      weekAgo,
      weekAgoBand,
      weekAgoDaysAway,
      weekAgoNever,
      weekAgoRead,
      tried: attempt,
      part,
      partBefore,
    });
  }
  return PARTS.flatMap((part) => {
    const order = byPart(part);
    return parts[part].sort((a, b) => order(a, b) || a.learnerId - b.learnerId);
  });
}

/** Have they come to their band within the week: to a worse one, or back on course? */
function isFresh({ band, weekAgoBand }: CaseloadRow): boolean {
  if (band === null) return false;
  return band === 0 ? (weekAgoBand ?? 0) > 0 : band > (weekAgoBand ?? 0);
}

/** How many stand in each part, and who came and went since a week before. */
function countParts(rows: readonly WatchRow[]): Record<Part, PartCount> {
  const counts = Object.fromEntries(PARTS.map((part) => [part, { count: 0, came: 0, went: 0 }])) as Record<
    Part,
    PartCount
  >;
  for (const { part, partBefore } of rows) {
    counts[part].count += 1;
    if (part === partBefore) continue;
    counts[part].came += 1;
    if (partBefore !== null) counts[partBefore].went += 1;
  }
  return counts;
}

/** What narrows the Watch: a part, and in it a band, or a stretch of drift. */
export interface WatchFilter {
  part: Part;
  band: BandFilter | null;
  /** Lowest and highest drift shown, both included. */
  drift: readonly [number, number] | null;
}

export function matches(row: WatchRow, { part, band, drift }: WatchFilter): boolean {
  if (row.part !== part) return false;
  if (band !== null && filterKey(row.band) !== band) return false;
  return drift === null || (row.score !== null && row.score >= drift[0] && row.score <= drift[1]);
}

/** Reads the filter from a link; what makes no sense is no filter. */
export function readWatchFilter(params: { part?: string; band?: string; drift?: string }): WatchFilter {
  const stretch = /^(\d{1,3})-(\d{1,3})$/.exec(params.drift ?? '');
  const [from, to] = [Number(stretch?.[1]), Number(stretch?.[2])];
  return {
    part: PARTS.find((part) => part === params.part) ?? 'now',
    band: BAND_FILTERS.find((filter) => filter === params.band) ?? null,
    drift: stretch && from <= to && to <= 100 ? [from, to] : null,
  };
}

export async function watchPage(
  runtime: Runtime,
  view: DriftView,
  filter: WatchFilter,
  page: number,
): Promise<WatchPage> {
  const everybody = await needOrder(runtime, view);
  const inPart = everybody.filter(({ part }) => part === filter.part);
  const counts: WatchPage['counts'] = { 0: 0, 1: 0, 2: 0, none: 0 };
  const fresh: WatchPage['fresh'] = { 0: 0, 1: 0, 2: 0, none: 0 };
  for (const row of inPart) {
    counts[filterKey(row.band)] += 1;
    if (isFresh(row)) fresh[filterKey(row.band)] += 1;
  }
  const listed = inPart.filter((row) => matches(row, filter));
  const pages = Math.max(1, Math.ceil(listed.length / WATCH_PAGE));
  const shown = Math.min(Math.max(1, page), pages);
  const rows = listed.slice((shown - 1) * WATCH_PAGE, shown * WATCH_PAGE);
  const ids = rows.map((row) => row.learnerId);
  const detail = { wakeDays: WAKE_DAYS, visits: 0, contacts: 1, status: 'active' } as const;
  const [people, [first = null]] = await Promise.all([
    explainPeople(runtime, view, ids, detail).then(tellApart),
    explainPeople(runtime, view, ids.slice(0, 1), { ...detail, visits: 3 }),
  ]);
  const { courseId } = view.segment;
  const setting =
    courseId === undefined
      ? settingOn(view.settings, view.readingDay)
      : courseSettingOn(view.settings, courseId, view.readingDay);
  const tenth = (score: number | null) => (score === null ? null : Math.round(score * 10) / 10);
  const shoreline = inPart.map(({ learnerId, score, weekAgo, band }): PackedPerson => [
    learnerId,
    tenth(score),
    tenth(weekAgo),
    band,
  ]);
  return {
    people,
    places: new Map(rows.map((row) => [row.learnerId, row])),
    first,
    parts: countParts(everybody),
    counts,
    fresh,
    shoreline,
    edges: setting.edges,
    changedOn: changedBetween(view.settings, courseId, view.readingDay - 7, view.readingDay),
    listed: listed.length,
    inPart: inPart.length,
    total: everybody.length,
    page: shown,
    pages,
  };
}

/** Ids of all that match, for an action on them; only as many as one message may go to. */
export async function allMatching(runtime: Runtime, view: DriftView, filter: WatchFilter): Promise<number[]> {
  return (await needOrder(runtime, view)).filter((row) => matches(row, filter)).map((row) => row.learnerId);
}

/** Names of everybody in view, by id: for the Shoreline, once somebody points at it. */
export async function watchNames(
  runtime: Runtime,
  view: DriftView,
): Promise<Record<number, { name: string; learnerId: string }>> {
  const ids = (await needOrder(runtime, view)).map((row) => row.learnerId);
  const rows = await namesOf(runtime.db, view.viewer, ids);
  return Object.fromEntries(rows.map((row) => [row.id, { name: fullName(row), learnerId: row.learner_id }]));
}
