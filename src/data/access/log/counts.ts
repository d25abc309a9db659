/** How many events of the log match, day by day: exact wherever that is cheap, else said to be about. */
import type { ActionKind } from '@/core/access/kinds';
import { dayOf, startOfDay } from '@/core/time/zone';
import { daySql } from '@/data/day-sql';
import { countOf, type Db } from '@/data/db';
import { eventsOfActions } from '@/data/imports/mappings';
import { courseRowInScope, enrolmentInSegment, enrolmentInScope, type ViewScope } from '@/data/scope';
import { coursesInLog } from './names';
import { eventMatches, isLearnersAlone, narrowsLearners, type LogFilter } from './filter';
import { fewLearners, wayInto, type WayIn } from './way-in';

interface DayCount {
  day: number;
  events: number;
}

export interface LogCount {
  total: number;
  /** Are the figures estimates? */
  about: boolean;
  /** Days with events, in order. */
  days: DayCount[];
}

const FEW_EVENTS = 50_000;

interface CountRequest {
  scope: ViewScope;
  filter: LogFilter;
  /** The kinds whose actions are those of the filter. */
  kinds?: readonly ActionKind[];
  zone: string;
  /** Events of archives that match, day by day: what is kept of each day counts them already, the log does not hold them. */
  archived?: (filter: LogFilter) => Promise<DayCount[]>;
  /** Counted one by one up to here; more are counted from what is kept of each day. */
  few?: number;
}

/** Counts by the way in itself: exact. */
async function countOnWay(db: Db, { scope, filter, zone }: CountRequest, way: WayIn): Promise<DayCount[]> {
  // Two looks, each one step in the index: asked for together, the whole of it is walked.
  const [span] = await db.select(
    db.raw('(SELECT min(at) FROM event) AS first'),
    db.raw('(SELECT max(at) FROM event) AS last'),
  );
  if (span.first === null) return [];
  const day = daySql('event.at', zone, span.first, span.last + 1);
  return db
    .from(
      db.raw(`json_each(?) AS k CROSS JOIN event INDEXED BY ${way.index} ON event.${way.column} = k.value`, [
        JSON.stringify(way.keys),
      ]),
    )
    .modify(eventMatches(db, scope, filter, way.settled))
    .groupByRaw('1')
    .orderByRaw('1')
    .select(db.raw(`${day} AS day`), db.raw('count(*) AS events'));
}

/** Counts between two instants, by time: for the broken days at a period's ends. */
async function countBetween(
  db: Db,
  { scope, filter, archived }: CountRequest,
  from: number,
  to: number,
): Promise<number> {
  const index = scope.segment.courseId === undefined ? 'event_at' : 'event_course';
  const part = { ...filter, from, to };
  const there = countOf(db.from(db.raw(`event INDEXED BY ${index}`)).modify(eventMatches(db, scope, part)));
  return (await there) + sum((await archived?.(part)) ?? []);
}

interface WholeDays {
  first: number;
  /** Included. */
  last: number;
  /** Stretches of the period that are no whole days. */
  broken: { day: number; from: number; to: number }[];
}

function wholeDays({ from, to }: LogFilter, zone: string): WholeDays {
  const broken: WholeDays['broken'] = [];
  let [first, last] = [-1_000_000, 1_000_000];
  if (from !== undefined) {
    first = dayOf(from, zone);
    const next = startOfDay(first + 1, zone);
    if (from > startOfDay(first, zone)) broken.push({ day: first++, from, to: Math.min(next, to ?? next) });
  }
  if (to !== undefined) {
    last = dayOf(to - 1, zone);
    const start = startOfDay(last, zone);
    if (to < startOfDay(last + 1, zone)) {
      // A period within one day is one broken stretch, noted above when it begins inside of it.
      if (last >= first) broken.push({ day: last, from: Math.max(start, from ?? start), to });
      last -= 1;
    }
  }
  return { first, last, broken };
}

/** From the counts kept by course, day and action, of the courses that the viewer sees whole: no person. */
async function countCourses(db: Db, request: CountRequest): Promise<DayCount[]> {
  const { scope, filter, zone } = request;
  const { first, last, broken } = wholeDays(filter, zone);
  const days: DayCount[] = await db('course_day')
    .whereBetween('day', [first, last])
    .where('events', '>', 0)
    .modify((query) => {
      if (scope.segment.courseId !== undefined) query.where('course_id', scope.segment.courseId);
      if (!scope.viewer.all) query.whereIn('course_id', scope.viewer.courses);
      if (filter.actionIds) query.whereIn('action_id', filter.actionIds);
      if (filter.staff !== 'yes') query.where('staff', filter.staff === 'only' ? 1 : 0);
    })
    .groupBy('day')
    .orderBy('day')
    .select('day', db.raw('sum(events) AS events'));
  for (const part of broken) {
    const events = await countBetween(db, request, part.from, part.to);
    if (events > 0) days.push({ day: part.day, events });
  }
  return days.sort((a, b) => a.day - b.day);
}

/** From what is kept of each learner and day: many learners. Exact but for single actions and broken days. */
async function countLearnerDays(
  db: Db,
  { scope, filter, kinds, zone }: CountRequest,
): Promise<{ days: DayCount[]; about: boolean }> {
  const { viewer, segment } = scope;
  const { first, last, broken } = wholeDays(filter, zone);
  const [low, high] = broken.reduce(([a, b], { day }) => [Math.min(a, day), Math.max(b, day)], [first, last]);
  const days: DayCount[] = await db('learner_day as ld')
    .whereIn(
      'ld.learner_id',
      db('enrolment').where(enrolmentInScope(viewer)).where(enrolmentInSegment(segment)).select('learner_id'),
    )
    .where(courseRowInScope(db, viewer, 'ld'))
    .whereBetween('ld.day', [low, high])
    .modify((query) => {
      if (segment.courseId !== undefined) query.where('ld.course_id', segment.courseId);
      if (segment.groupId !== undefined) {
        query.whereIn('ld.course_id', db('course_group').where('id', segment.groupId).select('course_id'));
      }
    })
    .groupBy('ld.day')
    .orderBy('ld.day')
    .select('ld.day', db.raw(`sum(${(kinds ?? ['events']).map((column) => `ld.${column}`).join(' + ')}) AS events`));
  const single = filter.actionIds !== undefined && kinds === undefined;
  const { share } = single ? await eventsOfActions(db, filter.actionIds!, await coursesInLog(db, scope)) : { share: 1 };
  const scaled = days
    .map(({ day, events }) => ({ day, events: Math.round(events * share) }))
    .filter(({ events }) => events > 0);
  return { days: scaled, about: single || broken.length > 0 };
}

/** The number of events that match, in all and by day. */
export async function countLog(db: Db, request: CountRequest): Promise<LogCount> {
  const { scope, filter, few = FEW_EVENTS } = request;
  const exact = (days: DayCount[]) => ({ total: sum(days), about: false, days });
  let way = await wayInto(db, scope, filter);
  // A page of a group is found by its course; what its people did is sooner counted by them.
  if (way.column === 'course_id' && scope.segment.groupId !== undefined) way = (await fewLearners(db, scope)) ?? way;
  if (way.column === 'learner_id' || way.column === 'item_id') {
    const isSmall = way.column === 'item_id' || way.keys.length === 1 || (way.events ?? 0) <= few;
    if (isSmall && way.keys.length === 0) return exact([]);
    if (isSmall) return exact(addDays(await countOnWay(db, request, way), (await request.archived?.(filter)) ?? []));
  }
  if (!narrowsLearners(scope)) return exact(await countCourses(db, request));
  const learners = filter.staff === 'only' ? { days: [], about: false } : await countLearnerDays(db, request);
  if (isLearnersAlone(scope, filter)) return { ...learners, total: sum(learners.days) };
  const staff = await countCourses(db, { ...request, filter: { ...filter, staff: 'only' } });
  const days = addDays(learners.days, staff);
  return { total: sum(days), about: learners.about, days };
}

function addDays(some: readonly DayCount[], more: readonly DayCount[]): DayCount[] {
  const days = new Map(some.map(({ day, events }) => [day, events]));
  for (const { day, events } of more) days.set(day, (days.get(day) ?? 0) + events);
  return [...days].map(([day, events]) => ({ day, events })).sort((a, b) => a.day - b.day);
}

function sum(days: readonly DayCount[]): number {
  return days.reduce((total, { events }) => total + events, 0);
}
