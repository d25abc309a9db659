/** How far each item has got, and the visits of a learner, as the API and the screens give them. */
import { IsNotEmpty, MaxLength } from 'class-validator';
import { DAY, dayOf } from '@/core/time/zone';
import { findLearner } from '@/data/people/learners';
import { reachOfItems, type ReachRow } from '@/data/reach/reach';
import type { Viewer } from '@/data/scope';
import { visitsOfLearners } from '@/data/access/visits';
import { isoOrNull, minutes } from '../request/figures';
import { NotFound, readInput } from '../request/input';
import { pageAfter } from '../request/list-query';
import { PeriodQuery, periodOf } from '../request/period';
import type { Runtime } from '../runtime';
import { openMoment } from '../request/view';

class ReachQuery extends PeriodQuery {}

class VisitsQuery extends PeriodQuery {
  @IsNotEmpty({ message: 'is missing' }) @MaxLength(200, { message: 'is too long' }) learner!: string;
}

export const REACH_COLUMNS = [
  'item_id',
  'item',
  'unit',
  'kind',
  'base',
  'openers',
  'opens',
  'minutes',
  'first_opened',
  'last_opened',
  'opened_since_changed',
  'never_opened',
] as const;

/** Reach of the items in view, over the whole days of a period, with what the screens say beside it. @throws InvalidInput, NotFound */
export async function itemReach(runtime: Runtime, viewer: Viewer, values: Record<string, unknown>) {
  const query = readInput(ReachQuery, values);
  const { course, group, organisation } = query;
  const view = await openMoment(runtime, viewer, { course, group, organisation });
  const { from, to } = await periodOf(runtime, view, query);
  const day = (at: number | undefined) => (at === undefined ? undefined : dayOf(at, runtime.zone));
  const days = { from: day(from), to: day(to === undefined ? undefined : to - 1) };
  const rows = await reachOfItems(runtime.db, view, days, view.now - 7 * DAY);
  return { query, view, period: { from, to }, rows };
}

/** Reach as the API gives it. @throws InvalidInput, NotFound */
export async function reach(runtime: Runtime, viewer: Viewer, values: Record<string, unknown>) {
  const { query, rows: all } = await itemReach(runtime, viewer, values);
  // In outline order, which no two items share a place in; one that has gone is looked for no more.
  const { rows, next } = pageAfter(
    all.map((row, index) => ({ row, index })),
    query,
    ({ row, index }) => [index, `${row.course}/${row.item_id}`],
    ({ row, index }, [place, id]) => {
      const known = all.findIndex((one) => `${one.course}/${one.item_id}` === id);
      return known < 0 ? index >= Number(place) : all.indexOf(row) > known;
    },
  );
  return { query, rows: rows.map(({ row }) => reachFigures(row)), total: all.length, next };
}

/** An item's reach as the API and the files give it. */
export function reachFigures(row: ReachRow) {
  return {
    item_id: row.item_id,
    item: row.item,
    unit: row.unit,
    kind: row.kind,
    base: row.base,
    openers: row.openers,
    opens: row.opens,
    minutes: minutes(row.ms),
    first_opened: isoOrNull(row.first_opened),
    last_opened: isoOrNull(row.last_opened),
    opened_since_changed: row.opened_since_changed,
    never_opened: row.base - row.openers,
  };
}

export const VISIT_COLUMNS = ['learner_id', 'start', 'end', 'minutes', 'events', 'courses'] as const;

/** Visits of one learner, newest first. @throws InvalidInput, NotFound */
export async function visits(runtime: Runtime, viewer: Viewer, values: Record<string, unknown>) {
  const query = readInput(VisitsQuery, values);
  const view = await openMoment(runtime, viewer, { course: query.course, group: query.group });
  const period = await periodOf(runtime, view, query);
  const id = await findLearner(runtime.db, viewer, query.learner);
  if (id === null) throw new NotFound('No such learner');
  const all = await visitsOfLearners(runtime.db, viewer, view.lens, [id], period);
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
