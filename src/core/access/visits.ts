/**
 * Visits: runs of one learner's events with no pause over the idle gap.
 *
 * Within a visit the time from one event to the next belongs to the course and
 * item of the earlier one; the last event gets the tail. So the parts of a visit
 * add up to its length exactly, and course times add up to visit times.
 */
import { MINUTE } from '../time/zone';
import type { ActionKind } from './kinds';

/** A pause longer than this ends a visit, in ms. A pause of exactly this does not. */
export const IDLE_GAP = 30 * MINUTE;
/** Time given to a visit's last event, in ms. */
export const TAIL = MINUTE;

/** One event of a learner, as the computations need it. */
export interface AccessEvent {
  at: number;
  courseId: number;
  itemId: number | null;
  kind: ActionKind;
  /** Says by itself that something was handed in. */
  submits?: boolean;
}

/** An event with the time it is credited with, in ms. */
interface TimedEvent extends AccessEvent {
  ms: number;
}

export interface Visit {
  /** The first event's instant. */
  start: number;
  /** The last event's instant (without the tail). */
  end: number;
  /** end − start + tail. */
  ms: number;
  events: TimedEvent[];
}

/**
 * Splits a learner's events, over all courses, into visits.
 * @param events in time order; equal times keep the order given
 * @throws RangeError when the events are not in time order
 */
export function visitsOf(events: readonly AccessEvent[], idleGap = IDLE_GAP, tail = TAIL): Visit[] {
  const visits: Visit[] = [];
  let open: Visit | null = null;
  for (let i = 0; i < events.length; i += 1) {
    const event = events[i];
    const next = events[i + 1];
    if (next && next.at < event.at) throw new RangeError('visitsOf: events must be in time order');
    const goesOn = next !== undefined && next.at - event.at <= idleGap;
    const ms = goesOn ? next.at - event.at : tail;
    open ??= { start: event.at, end: event.at, ms: 0, events: [] };
    // Field by field: a spread costs a multiple of it over millions of events.
    open.events.push({
      at: event.at,
      courseId: event.courseId,
      itemId: event.itemId,
      kind: event.kind,
      submits: event.submits,
      ms,
    });
    open.end = event.at;
    open.ms += ms;
    if (!goesOn) {
      visits.push(open);
      open = null;
    }
  }
  return visits;
}

/** The share of a visit spent in one course. */
export interface VisitCourse {
  visitStart: number;
  courseId: number;
  first: number;
  last: number;
  ms: number;
  events: number;
}

/** A visit by course, in the order the courses were first entered. */
export function partsOf(visit: Visit): VisitCourse[] {
  const parts = new Map<number, VisitCourse>();
  for (const event of visit.events) {
    const part = parts.get(event.courseId);
    if (part) {
      part.last = event.at;
      part.ms += event.ms;
      part.events += 1;
    } else {
      parts.set(event.courseId, {
        visitStart: visit.start,
        courseId: event.courseId,
        first: event.at,
        last: event.at,
        ms: event.ms,
        events: 1,
      });
    }
  }
  return [...parts.values()];
}
