/** What is happening in the courses this hour, from the hour's events. */
import { foldRuns } from './fold';
import { IDLE_GAP } from './visits';
import { HOUR, MINUTE } from '../time/zone';

/** An event as the live screen knows it. */
export interface LiveEvent {
  /** Its place, sealed: the same each time it is sent. */
  id: string;
  at: number;
  /** The source that sent it. */
  source: number;
  /** Whose it is: one for each learner. */
  who: string;
  learner_id: string;
  name: string;
  course: string;
  item_id: string | null;
  item: string | null;
  action: string;
}

/** Events kept on the screen: an hour of a busy programme. */
export const MOST_EVENTS = 3000;

/** The events with new ones among them, newest first, each once, none older than an hour. */
export function withNew<T extends LiveEvent>(known: readonly T[], fresh: readonly T[], now: number): T[] {
  const ids = new Set(known.map(({ id }) => id));
  return [...known, ...fresh.filter(({ id }) => !ids.has(id))]
    .filter(({ at }) => at > now - HOUR)
    .sort((a, b) => b.at - a.at || (a.id < b.id ? 1 : -1))
    .slice(0, MOST_EVENTS);
}

export interface Present<T extends LiveEvent> {
  who: string;
  /** Their last event. */
  last: T;
  /** When this visit began; within the hour that is looked at. */
  since: number;
  events: number;
}

/** Who is in: whose last event is within the idle gap, the latest to come first. */
export function whoIsIn<T extends LiveEvent>(events: readonly T[], now: number, idleGap = IDLE_GAP): Present<T>[] {
  const seen = new Set<string>();
  return foldRuns(events, idleGap).flatMap((run) => {
    if (seen.has(run.who) || now - run.last > idleGap) return [];
    seen.add(run.who);
    return [{ who: run.who, last: run.rows[0], since: run.first, events: run.rows.length }];
  });
}

/** When each learner was first seen since an instant, by the source's id: those known, and who has come since. */
export function arrivals(
  known: ReadonlyMap<string, number>,
  events: readonly LiveEvent[],
  since: number,
): Map<string, number> {
  const first = new Map(known);
  for (const { learner_id, at } of events) {
    if (at >= since) first.set(learner_id, Math.min(at, first.get(learner_id) ?? Infinity));
  }
  return first;
}

export interface ItemNow {
  course: string;
  item_id: string;
  item: string;
  /** Learners on it in this hour. */
  learners: number;
  /** Learners whose last event of the hour it was, and who have done nothing for some minutes. */
  stopped: number;
  /** Learners who came back to it after another item. */
  returned: number;
}

/** So long without another event, and somebody has stopped. */
const STOPPED_FOR = 5 * MINUTE;

/** Items of the hour, those first at which most stop or to which most return. */
export function itemsNow(events: readonly LiveEvent[], now: number): ItemNow[] {
  const items = new Map<string, ItemNow & { seen: Set<string>; back: Set<string> }>();
  const personOf = (event: LiveEvent) => {
    const key = `${event.course}/${event.item_id}`;
    let row = items.get(key);
    if (!row) {
      row = {
        course: event.course,
        item_id: event.item_id!,
        item: event.item ?? event.item_id!,
        learners: 0,
        stopped: 0,
        returned: 0,
        seen: new Set(),
        back: new Set(),
      };
      items.set(key, row);
    }
    return row;
  };
  const trail = new Map<string, LiveEvent[]>();
  for (const event of events) {
    const theirTrail = trail.get(event.who);
    if (theirTrail) theirTrail.push(event);
    else trail.set(event.who, [event]);
  }
  for (const [who, own] of trail) {
    const been = new Set<string>();
    let before: string | null = null;
    for (let i = own.length - 1; i >= 0; i -= 1) {
      const event = own[i];
      if (event.item_id === null) continue;
      const key = `${event.course}/${event.item_id}`;
      const row = personOf(event);
      row.seen.add(who);
      if (key !== before && been.has(key)) row.back.add(who);
      been.add(key);
      before = key;
    }
    const [last] = own;
    if (last.item_id !== null && now - last.at >= STOPPED_FOR) personOf(last).stopped += 1;
  }
  return [...items.values()]
    .map(({ seen, back, ...row }) => ({ ...row, learners: seen.size, returned: back.size }))
    .sort((a, b) => b.stopped + b.returned - (a.stopped + a.returned) || b.learners - a.learners);
}

/** Is it worth a look: do at least three, and most of those on it, stop or come back? */
export function isSuspect({ learners, stopped, returned }: ItemNow): boolean {
  return Math.max(stopped, returned) >= 3 && Math.max(stopped, returned) > learners / 2;
}
