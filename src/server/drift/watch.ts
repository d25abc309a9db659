/** The Watch: who needs somebody today, in order of need. */
import { RECENT_CONTACT_DAYS, byNeed } from '@/core/drift/order';
import type { Band } from '@/core/drift/types';
import type { PackedPerson } from '@/core/drift/shoreline';
import type { Person } from '@/core/contact/person';
import { DAY, dayOf } from '@/core/time/zone';
import { caseload, type CaseloadRow } from '@/data/people/caseload';
import { namesOf } from '@/data/people/learners';
import type { View } from '@/data/view';
import { setAsideIds } from '@/data/drift/set-aside';
import { fullName } from '@/core/people/name';
import { explainPeople, tellApart } from '../people/people';
import type { Runtime } from '../runtime';

/** People on one page of the Watch. */
export const WATCH_PAGE = 30;

export type BandFilter = '0' | '1' | '2' | 'none';
export const BAND_FILTERS: readonly BandFilter[] = ['2', '1', '0', 'none'];

/** Days of wake beside a name. */
const WAKE_DAYS = 28;

export interface WatchPage {
  people: Person[];
  /** The first of them with all that the panel shows; null for nobody. */
  first: Person | null;
  /** How many each band has, over the whole view. */
  counts: Record<BandFilter, number>;
  /** How many of them have come to it within a week: from better, or back from worse for those on course. */
  fresh: Record<BandFilter, number>;
  /** Everybody in view, for the Shoreline. */
  shoreline: PackedPerson[];
  /** People listed in all, and everybody in view. */
  listed: number;
  total: number;
  page: number;
  pages: number;
}

function filterKey(band: Band | null): BandFilter {
  return band === null ? 'none' : (String(band) as BandFilter);
}

/** Everybody in view in order of need, but those whom the viewer has set aside. */
export async function needOrder({ db, zone }: Runtime, view: View): Promise<CaseloadRow[]> {
  const [rows, aside] = await Promise.all([
    caseload(db, view, view.now - RECENT_CONTACT_DAYS * DAY),
    // A past day is shown as it was, with everybody.
    view.asOf === null ? setAsideIds(db, view.viewer, dayOf(view.now, zone)) : [],
  ]);
  const away = new Set(aside);
  const here = away.size === 0 ? rows : rows.filter((row) => !away.has(row.learnerId));
  return here.sort((a, b) => byNeed(a, b) || a.learnerId - b.learnerId);
}

/** Have they come to their band within the week: to a worse one, or back on course? */
function isFresh({ band, weekAgoBand }: CaseloadRow): boolean {
  if (band === null) return false;
  return band === 0 ? (weekAgoBand ?? 0) > 0 : band > (weekAgoBand ?? 0);
}

/** What narrows the Watch: a band, or a stretch of drift. */
export interface WatchFilter {
  band: BandFilter | null;
  /** Lowest and highest drift shown, both included. */
  drift: readonly [number, number] | null;
}

export function matches(row: CaseloadRow, { band, drift }: WatchFilter): boolean {
  if (band !== null && filterKey(row.band) !== band) return false;
  return drift === null || (row.score !== null && row.score >= drift[0] && row.score <= drift[1]);
}

/** Reads the filter from a link; what makes no sense is no filter. */
export function readWatchFilter(params: { band?: string; drift?: string }): WatchFilter {
  const stretch = /^(\d{1,3})-(\d{1,3})$/.exec(params.drift ?? '');
  const [from, to] = [Number(stretch?.[1]), Number(stretch?.[2])];
  return {
    band: BAND_FILTERS.find((filter) => filter === params.band) ?? null,
    drift: stretch && from <= to && to <= 100 ? [from, to] : null,
  };
}

export async function watchPage(runtime: Runtime, view: View, filter: WatchFilter, page: number): Promise<WatchPage> {
  const everybody = await needOrder(runtime, view);
  const counts: WatchPage['counts'] = { 0: 0, 1: 0, 2: 0, none: 0 };
  const fresh: WatchPage['fresh'] = { 0: 0, 1: 0, 2: 0, none: 0 };
  for (const row of everybody) {
    counts[filterKey(row.band)] += 1;
    if (isFresh(row)) fresh[filterKey(row.band)] += 1;
  }
  const listed = everybody.filter((row) => matches(row, filter));
  const pages = Math.max(1, Math.ceil(listed.length / WATCH_PAGE));
  const shown = Math.min(Math.max(1, page), pages);
  const ids = listed.slice((shown - 1) * WATCH_PAGE, shown * WATCH_PAGE).map((row) => row.learnerId);
  const detail = { wakeDays: WAKE_DAYS, visits: 0, contacts: 1, status: 'active' } as const;
  const [people, [first = null]] = await Promise.all([
    explainPeople(runtime, view, ids, detail).then(tellApart),
    explainPeople(runtime, view, ids.slice(0, 1), { ...detail, visits: 3 }),
  ]);
  const tenth = (score: number | null) => (score === null ? null : Math.round(score * 10) / 10);
  const shoreline = everybody.map(({ learnerId, score, weekAgo, band }): PackedPerson => [
    learnerId,
    tenth(score),
    tenth(weekAgo),
    band,
  ]);
  return {
    people,
    first,
    counts,
    fresh,
    shoreline,
    listed: listed.length,
    total: everybody.length,
    page: shown,
    pages,
  };
}

/** Ids of all that match, for an action on them; only as many as one message may go to. */
export async function allMatching(runtime: Runtime, view: View, filter: WatchFilter): Promise<number[]> {
  return (await needOrder(runtime, view)).filter((row) => matches(row, filter)).map((row) => row.learnerId);
}

/** Names of everybody in view, by id: for the Shoreline, once somebody points at it. */
export async function watchNames(
  runtime: Runtime,
  view: View,
): Promise<Record<number, { name: string; learnerId: string }>> {
  const ids = (await needOrder(runtime, view)).map((row) => row.learnerId);
  const rows = await namesOf(runtime.db, view.viewer, ids);
  return Object.fromEntries(rows.map((row) => [row.id, { name: fullName(row), learnerId: row.learner_id }]));
}
