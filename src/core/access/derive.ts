/** Everything that is derived from a stretch of one learner's events. */
import { dayOf } from '../time/zone';
import { ACTION_KINDS } from './kinds';
import type { ItemActivity } from '../item-use/packed-days';
import { IDLE_GAP, TAIL, partsOf, visitsOf, type AccessEvent, type VisitCourse } from './visits';

/** More days than any log spans, so that id × span + day is a key of its own. */
export const DAY_SPAN = 1_000_000;

/** One learner, one course, one day. */
interface LearnerDay {
  courseId: number;
  day: number;
  /** Events on that day, of any kind. */
  events: number;
  looked: number;
  worked: number;
  talked: number;
  other: number;
  /**
   * Time online in ms, of visits that *start* on that day: a visit over midnight
   * counts whole on the day it began, so days add up to visits. A day whose only
   * events end such a visit has events and no time.
   */
  ms: number;
  /** First and last event of the day; null for the day that only carries time. */
  first: number | null;
  last: number | null;
}

/** One learner, one item, one day. */
interface ItemDay {
  itemId: number;
  day: number;
  /** Events of kind looked, worked or talked. */
  opens: number;
  /** Events of any kind. */
  events: number;
  /** Estimated ms, on the events' own day. */
  ms: number;
  /** First and last opening; null when there was none. */
  first: number | null;
  last: number | null;
  /** Events of kind talked. */
  talked: number;
  /** The first event that says that something was handed in; null without one. */
  submitted: number | null;
  /** The last event of a day with none but of kind other, which has no opening; null for any other day. */
  otherLast: number | null;
}

export interface Derived {
  parts: VisitCourse[];
  days: LearnerDay[];
  items: ItemDay[];
  /** The same as `items`, by kind. */
  deeds: ItemActivity[];
}

/**
 * Visits by course, days and item days of one learner's events.
 * @param events in time order; must begin and end at visit boundaries
 * @param zone the programme's time zone, which decides where days begin
 */
export function derive(events: readonly AccessEvent[], zone: string, idleGap = IDLE_GAP, tail = TAIL): Derived {
  const parts: VisitCourse[] = [];
  const days = new Map<number, LearnerDay>();
  const deeds = new Map<number, ItemActivity>();
  const submitted = new Map<number, number>();
  for (const visit of visitsOf(events, idleGap, tail)) {
    const startDay = dayOf(visit.start, zone);
    const isOneDay = dayOf(visit.end, zone) === startDay;
    for (const part of partsOf(visit)) {
      parts.push(part);
      dayRow(days, part.courseId, startDay).ms += part.ms;
    }
    // Neighbouring events are mostly of one course, item and day: their row is at hand.
    let row: LearnerDay | null = null;
    for (const event of visit.events) {
      const day = isOneDay ? startDay : dayOf(event.at, zone);
      if (row?.courseId !== event.courseId || row.day !== day) row = dayRow(days, event.courseId, day);
      row.events += 1;
      row[event.kind] += 1;
      row.first ??= event.at;
      row.last = event.at;
      if (event.itemId === null) continue;
      addToActivity(deeds, event, event.itemId, day);
      const key = event.itemId * DAY_SPAN + day;
      if (event.submits && !submitted.has(key)) submitted.set(key, event.at);
    }
  }
  return { parts, days: [...days.values()], items: itemsOf(deeds.values(), submitted), deeds: [...deeds.values()] };
}

function dayRow(days: Map<number, LearnerDay>, courseId: number, day: number): LearnerDay {
  const key = courseId * DAY_SPAN + day;
  let row = days.get(key);
  if (!row) {
    row = { courseId, day, events: 0, looked: 0, worked: 0, talked: 0, other: 0, ms: 0, first: null, last: null };
    days.set(key, row);
  }
  return row;
}

/** Items by day, of any kind together: there are far fewer deeds than events. */
function itemsOf(deeds: Iterable<ItemActivity>, submitted: ReadonlyMap<number, number>): ItemDay[] {
  const items = new Map<number, ItemDay>();
  for (const { itemId, day, kind, events, ms, first, last } of deeds) {
    const key = itemId * DAY_SPAN + day;
    let row = items.get(key);
    if (!row) {
      row = {
        itemId,
        day,
        opens: 0,
        events: 0,
        ms: 0,
        first: null,
        last: null,
        talked: 0,
        submitted: null,
        otherLast: null,
      };
      row.submitted = submitted.get(key) ?? null;
      items.set(key, row);
    }
    row.events += events;
    row.ms += ms;
    if (kind === 'other') {
      if (row.opens === 0) row.otherLast = Math.max(row.otherLast ?? last, last);
      continue;
    }
    row.otherLast = null;
    row.opens += events;
    if (kind === 'talked') row.talked += events;
    row.first = row.first === null ? first : Math.min(row.first, first);
    row.last = row.last === null ? last : Math.max(row.last, last);
  }
  return [...items.values()];
}

function addToActivity(
  deeds: Map<number, ItemActivity>,
  event: AccessEvent & { ms: number },
  itemId: number,
  day: number,
) {
  const { courseId, kind, at, ms } = event;
  const key = (itemId * DAY_SPAN + day) * ACTION_KINDS.length + ACTION_KINDS.indexOf(kind);
  const row = deeds.get(key);
  if (!row) {
    deeds.set(key, { courseId, itemId, day, kind, events: 1, ms, first: at, last: at });
    return;
  }
  row.events += 1;
  row.ms += ms;
  row.last = at;
}
