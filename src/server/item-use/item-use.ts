/** How far each item has got, and the visits of a learner, as the API and the screens give them. */
import { IsNotEmpty, IsOptional, MaxLength } from 'class-validator';
import { DAY, dayOf } from '@/core/time/zone';
import { findLearner } from '@/data/people/learners';
import { itemUseCounts, type ItemUseRow } from '@/data/item-use/item-use';
import type { Viewer } from '@/data/scope';
import { visitsOfLearners } from '@/data/access/visits';
import { isoOrNull, minutes } from '../request/values';
import { NotFound, readInput, type Values } from '../request/input';
import type { List } from '../request/list';
import { pageAfter, SortedBy } from '../request/list-query';
import { PeriodQuery, periodOf } from '../request/period';
import type { Runtime } from '../runtime';
import { openView } from '../request/view';
import { ITEM_USE_COLUMNS, ITEM_USE_SORTS, sortItemUse } from './item-use-columns';

class ItemUseQuery extends PeriodQuery {
  @IsOptional()
  @SortedBy(ITEM_USE_SORTS)
  sort?: string;
}

class VisitsQuery extends PeriodQuery {
  @IsNotEmpty({ message: 'is missing' }) @MaxLength(200, { message: 'is too long' }) learner!: string;
}

/** Reach of the items in view, over the whole days of a period, with what the screens say beside it. @throws InvalidInput, NotFound */
export async function itemUseOf(runtime: Runtime, viewer: Viewer, values: Values) {
  const query = readInput(ItemUseQuery, values, runtime.zone);
  const { course, group, organisation, caseload } = query;
  const view = await openView(runtime, viewer, { course, group, organisation, caseload });
  const { from, to } = await periodOf(runtime, view, query);
  const day = (at: number | undefined) => (at === undefined ? undefined : dayOf(at, runtime.zone));
  const days = { from: day(from), to: day(to === undefined ? undefined : to - 1) };
  const rows = sortItemUse(await itemUseCounts(runtime.db, view, days, view.now - 7 * DAY), query.sort);
  return { query, view, period: { from, to }, rows };
}

/** Reach as a list: in outline order, which no two items share a place in. @throws InvalidInput, NotFound */
async function itemUse(runtime: Runtime, viewer: Viewer, values: Values) {
  const { query, rows: all, view } = await itemUseOf(runtime, viewer, values);
  const keyOf = (row: ItemUseRow) => `${row.course}/${row.item_id}`;
  const places = new Map(all.map((row, index) => [keyOf(row), index]));
  const { rows, next } = pageAfter(
    all,
    query,
    (row) => [places.get(keyOf(row))!, keyOf(row)],
    // One that has gone meanwhile is looked for no more.
    (row, [place, key]) => places.get(keyOf(row))! > (places.get(String(key)) ?? Number(place) - 1),
  );
  return { query, rows, total: all.length, next, now: view.now, zone: runtime.zone };
}

export const ITEM_USE = {
  name: 'item-use',
  path: '/courses/item-use',
  query: ItemUseQuery,
  columns: ITEM_USE_COLUMNS,
  read: itemUse,
} satisfies List<ItemUseRow>;

export const VISIT_COLUMNS = ['learner_id', 'start', 'end', 'minutes', 'events', 'courses'] as const;

/** Visits of one learner, newest first. @throws InvalidInput, NotFound */
export async function visits(runtime: Runtime, viewer: Viewer, values: Values) {
  const query = readInput(VisitsQuery, values, runtime.zone);
  const view = await openView(runtime, viewer, { course: query.course, group: query.group });
  const period = await periodOf(runtime, view, query);
  const id = await findLearner(runtime.db, viewer, query.learner);
  if (id === null) throw new NotFound('No such learner');
  const all = await visitsOfLearners(runtime.db, viewer, view.segment, [id], period);
  const page = pageAfter(
    all,
    query,
    (visit) => [visit.start, query.learner],
    (visit, [start]) => visit.start < Number(start),
  );
  const rows = page.rows.map((visit) => ({
    learner_id: query.learner,
    start: isoOrNull(visit.first),
    end: isoOrNull(visit.last),
    minutes: minutes(visit.ms),
    events: visit.events,
    courses: [...new Set(visit.courses)].sort(),
  }));
  return { query, rows, total: all.length, next: page.next };
}
