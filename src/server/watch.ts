/** The Watch: who needs somebody today, in order of need. */
import { RECENT_CONTACT_DAYS, byNeed } from '@/core/drift/order';
import type { Band } from '@/core/drift/types';
import type { Person } from '@/core/followup/person';
import { DAY } from '@/core/time/zone';
import { caseload, type CaseloadRow, type View } from '@/data/learners';
import { explainPeople, tellApart } from './people';
import type { Runtime } from './runtime';

/** People on one page of the Watch. */
export const WATCH_PAGE = 50;

export type BandFilter = '0' | '1' | '2' | 'none';
export const BAND_FILTERS: readonly BandFilter[] = ['2', '1', '0', 'none'];

/** Days of wake beside a name. */
const WAKE_DAYS = 28;

export interface WatchPage {
  people: Person[];
  /** How many each band has, over the whole view. */
  counts: Record<BandFilter, number>;
  /** People listed in all, and everybody in view. */
  listed: number;
  total: number;
  page: number;
  pages: number;
}

function filterKey(band: Band | null): BandFilter {
  return band === null ? 'none' : (String(band) as BandFilter);
}

/** Everybody in view in order of need. */
export async function needOrder({ db, clock }: Runtime, view: View): Promise<CaseloadRow[]> {
  const rows = await caseload(db, view, clock.now() - RECENT_CONTACT_DAYS * DAY);
  return rows.sort((a, b) => byNeed(a, b) || a.learnerId - b.learnerId);
}

export async function watchPage(
  runtime: Runtime,
  view: View,
  band: BandFilter | null,
  page: number,
): Promise<WatchPage> {
  const everybody = await needOrder(runtime, view);
  const counts: WatchPage['counts'] = { 0: 0, 1: 0, 2: 0, none: 0 };
  for (const row of everybody) counts[filterKey(row.band)] += 1;
  const listed = band === null ? everybody : everybody.filter((row) => filterKey(row.band) === band);
  const pages = Math.max(1, Math.ceil(listed.length / WATCH_PAGE));
  const shown = Math.min(Math.max(1, page), pages);
  const ids = listed.slice((shown - 1) * WATCH_PAGE, shown * WATCH_PAGE).map((row) => row.learnerId);
  const detail = { wakeDays: WAKE_DAYS, visits: 3, contacts: 1, status: 'active' } as const;
  const people = tellApart(await explainPeople(runtime, view, ids, detail));
  return { people, counts, listed: listed.length, total: everybody.length, page: shown, pages };
}
