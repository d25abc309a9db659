/** Reach, has and has not, and visits, as the API gives them. */
import { IsIn, IsNotEmpty, IsOptional, MaxLength } from 'class-validator';
import { ACTION_KINDS, type ActionKind } from '@/core/access/kinds';
import { IsInstant } from '@/core/formats/validators';
import { parseInstant } from '@/core/time/instant';
import { dayOf } from '@/core/time/zone';
import { findLearner } from '@/data/learners';
import { coursesInView, itemsById, reachOfItems, whoDid } from '@/data/reach';
import type { Viewer } from '@/data/scope';
import { visitsOfLearners } from '@/data/visits';
import { isoOrNull, minutes } from './figures';
import { InvalidInput, NotFound, readInput } from './input';
import { ListQuery, pageOf } from './list-query';
import type { Runtime } from './runtime';
import { openView } from './view';

const long = { message: 'is too long' };
const kinds = { message: `is not one of ${ACTION_KINDS.join(', ')}` };

/** A period: times, or dates for midnight in the programme's zone. */
class PeriodQuery extends ListQuery {
  @IsOptional() @MaxLength(200, long) course?: string;
  @IsOptional() @MaxLength(200, long) group?: string;
  @IsOptional() @IsInstant() from?: string;
  @IsOptional() @IsInstant() to?: string;
}

export class ReachQuery extends PeriodQuery {}

export class HasQuery extends PeriodQuery {
  @IsOptional() @MaxLength(200, long) item?: string;
  @IsOptional() @IsIn(ACTION_KINDS, kinds) kind?: ActionKind;
  @IsOptional() @MaxLength(200, long) action?: string;
}

export class VisitsQuery extends PeriodQuery {
  @IsNotEmpty({ message: 'is missing' }) @MaxLength(200, long) learner!: string;
}

/** The instants of a period. @throws InvalidInput for one that ends before it starts */
function periodOf({ zone }: Runtime, { from, to }: PeriodQuery): { from?: number; to?: number } {
  const [start, end] = [from, to].map((text) => (text === undefined ? undefined : parseInstant(text, zone)!));
  if (start !== undefined && end !== undefined && end <= start) {
    throw new InvalidInput([{ field: 'to', message: 'does not lie after from' }]);
  }
  return { from: start, to: end };
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

/** Reach of the items in view, over the whole days of a period. @throws InvalidInput, NotFound */
export async function reach(runtime: Runtime, viewer: Viewer, values: Record<string, unknown>) {
  const query = readInput(ReachQuery, values);
  const { from, to } = periodOf(runtime, query);
  const view = await openView(runtime, viewer, { course: query.course, group: query.group });
  const day = (at: number | undefined) => (at === undefined ? undefined : dayOf(at, runtime.zone));
  const days = { from: day(from), to: day(to === undefined ? undefined : to - 1) };
  const all = (await reachOfItems(runtime.db, view, days)).map(({ ms, first_opened, last_opened, ...row }) => ({
    ...row,
    minutes: minutes(ms),
    first_opened: isoOrNull(first_opened),
    last_opened: isoOrNull(last_opened),
    never_opened: row.base - row.openers,
  }));
  const { limit, offset } = pageOf(query);
  return { query, rows: all.slice(offset, offset + limit), total: all.length };
}

/** Who did and who did not, in a period, to the second. @throws InvalidInput, NotFound */
export async function hasAndHasNot(runtime: Runtime, viewer: Viewer, values: Record<string, unknown>) {
  const query = readInput(HasQuery, values);
  if (!query.item && !query.kind && !query.action) {
    throw new InvalidInput([{ field: 'item', message: 'is missing: name an item, a kind or an action' }]);
  }
  const { from, to } = periodOf(runtime, query);
  const { clock, zone, db } = runtime;
  const view = await openView(runtime, viewer, { course: query.course, group: query.group });
  const inView = await coursesInView(db, view);
  const items = query.item ? await itemsById(db, inView, query.item) : [];
  if (query.item && items.length === 0) throw new NotFound('No such item');
  if (items.length > 1) {
    throw new InvalidInput([
      { field: 'course', message: `is missing: ${items.length} courses have an item ${query.item}` },
    ]);
  }
  const [start, end] = [from ?? 0, to ?? clock.now() + 1];
  const rows = await whoDid(db, view, {
    itemIds: items.map((item) => item.id),
    courseIds: items.length > 0 ? items.map((item) => item.course_id) : inView,
    kind: query.kind,
    action: query.action,
    from: start,
    to: end,
    days: [dayOf(start, zone), dayOf(end - 1, zone)],
  });
  return {
    has: rows
      .filter((row) => row.count > 0)
      .map(({ learner_id, name, count, first, last }) => ({
        learner_id,
        name,
        count,
        first: isoOrNull(first),
        last: isoOrNull(last),
      })),
    has_not: rows
      .filter((row) => row.count === 0)
      .map(({ learner_id, name, other_last }) => ({ learner_id, name, other_last: isoOrNull(other_last) })),
  };
}

export const VISIT_COLUMNS = ['learner_id', 'start', 'end', 'minutes', 'events', 'courses'] as const;

/** Visits of one learner, newest first. @throws InvalidInput, NotFound */
export async function visits(runtime: Runtime, viewer: Viewer, values: Record<string, unknown>) {
  const query = readInput(VisitsQuery, values);
  const period = periodOf(runtime, query);
  const view = await openView(runtime, viewer, { course: query.course, group: query.group });
  const id = await findLearner(runtime.db, viewer, query.learner);
  if (id === null) throw new NotFound('No such learner');
  const all = await visitsOfLearners(runtime.db, viewer, view.lens, [id], period);
  const { limit, offset } = pageOf(query);
  const rows = all.slice(offset, offset + limit).map((visit) => ({
    learner_id: query.learner,
    start: isoOrNull(visit.first),
    end: isoOrNull(visit.last),
    minutes: minutes(visit.ms),
    events: visit.events,
    courses: [...new Set(visit.courses)].sort(),
  }));
  return { query, rows, total: all.length };
}
