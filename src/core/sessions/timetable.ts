/** When sessions take place: weekly series in local time, and what overlaps. */
import { RRule, rrulestr } from 'rrule';
import { isWithin, type DayRange } from '../drift/counted-days';
import { DAY, MINUTE, dayOf, fromWallClock, offsetAt } from '../time/zone';

export const SESSION_MODES = ['online', 'in_person'] as const;
export type SessionMode = (typeof SESSION_MODES)[number];

/** A weekly series, by the wall clock. */
export interface Weekly {
  /** Days of the week, 0 = Monday. */
  days: readonly number[];
  /** First and last day, both included. */
  from: number;
  until: number;
  /** Minutes after midnight at which it begins. */
  minuteOfDay: number;
}

/** Sessions of one series at most: a year of five a week. */
export const MOST_IN_SERIES = 260;

const WEEKDAYS = [RRule.MO, RRule.TU, RRule.WE, RRule.TH, RRule.FR, RRule.SA, RRule.SU];

/**
 * A weekly series as an RFC 5545 rule. Its times are local ones without a zone: 18:30 stays 18:30 when the clocks change.
 *
 * @example weeklyRule({ days: [2], from: 20_726, until: 20_740, minuteOfDay: 1110 })
 * // 'DTSTART:20260930T183000\nRRULE:FREQ=WEEKLY;BYDAY=WE;UNTIL=20261014T235959'
 */
export function weeklyRule({ days, from, until, minuteOfDay }: Weekly): string {
  const rule = new RRule({
    freq: RRule.WEEKLY,
    byweekday: [...new Set(days)].sort().map((day) => WEEKDAYS[day]),
    dtstart: new Date(from * DAY + minuteOfDay * MINUTE),
    until: new Date((until + 1) * DAY - 1000),
  });
  return rule.toString().replaceAll(/(\d{8}T\d{6})Z/g, '$1');
}

/** The series that a rule stands for. */
export function weeklyOf(text: string): Weekly {
  const { dtstart, until, byweekday } = rrulestr(text).origOptions;
  const wall = dtstart!.getTime();
  return {
    days: [byweekday ?? []].flat().map((day) => (day as { weekday: number }).weekday),
    from: Math.floor(wall / DAY),
    until: Math.floor(until!.getTime() / DAY),
    minuteOfDay: (wall - Math.floor(wall / DAY) * DAY) / MINUTE,
  };
}

/**
 * The days on which a rule has a session, breaks left out; at most as many as a series may have and one more, so that
 * a caller sees that there are too many.
 */
export function daysOfRule(text: string, breaks: readonly DayRange[] = []): number[] {
  return rrulestr(text)
    .all((_, count) => count <= MOST_IN_SERIES + 366)
    .map((date) => Math.floor(date.getTime() / DAY))
    .filter((day) => !isWithin(day, breaks))
    .slice(0, MOST_IN_SERIES + 1);
}

/** Start and end on a day, of so many minutes by the clock on the wall. */
export function timesOn(day: number, minuteOfDay: number, minutes: number, zone: string) {
  const wall = day * DAY + minuteOfDay * MINUTE;
  return { starts_at: fromWallClock(wall, zone), ends_at: fromWallClock(wall + minutes * MINUTE, zone) };
}

/** Minutes after midnight by the clock on the wall. */
export function minuteOfDay(at: number, zone: string): number {
  return Math.floor((at + offsetAt(at, zone)) / MINUTE) - dayOf(at, zone) * 1440;
}

/** What may get into another's way. */
export interface Timed {
  id: number;
  course_id: number;
  /** Null for all groups of the course. */
  group_id: number | null;
  instructor_id: number | null;
  starts_at: number;
  ends_at: number;
  cancelled: number;
}

/** Why two sessions cannot both be gone to. */
export type ClashOf = 'group' | 'instructor';

/** Whether two sessions are in each other's way, and whose they are; null when they are not. */
export function clashOf(one: Timed, other: Timed): ClashOf | null {
  if (one.id === other.id || one.cancelled || other.cancelled) return null;
  if (one.ends_at <= other.starts_at || other.ends_at <= one.starts_at) return null;
  if (one.instructor_id !== null && one.instructor_id === other.instructor_id) return 'instructor';
  const isSame = one.group_id === null || other.group_id === null || one.group_id === other.group_id;
  return one.course_id === other.course_id && isSame ? 'group' : null;
}

/** Of each session that is in the way of another: which, and whose they both are. Of many, looked at in time order. */
export function clashes<T extends Timed>(sessions: readonly T[]): Map<number, { other: T; of: ClashOf }> {
  const found = new Map<number, { other: T; of: ClashOf }>();
  const open: T[] = [];
  for (const session of [...sessions].sort((a, b) => a.starts_at - b.starts_at || a.id - b.id)) {
    for (let at = open.length - 1; at >= 0; at -= 1) {
      const before = open[at];
      if (before.ends_at <= session.starts_at) {
        open.splice(at, 1);
        continue;
      }
      const clash = clashOf(before, session);
      if (clash === null) continue;
      if (!found.has(before.id)) found.set(before.id, { other: session, of: clash });
      if (!found.has(session.id)) found.set(session.id, { other: before, of: clash });
    }
    open.push(session);
  }
  return found;
}
