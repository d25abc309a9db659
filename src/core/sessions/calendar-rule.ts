/** Rules by which events of an iCalendar file repeat (RFC 5545): those that a timetable needs. */
import type ICAL from 'ical.js';
import { RRule } from 'rrule';

/** A time's wall clock as if it were UTC. */
export function wallOf({ year, month, day, hour, minute, second }: ICAL.Time): number {
  return Date.UTC(year, month - 1, day, hour, minute, second);
}

/** Instances of one event at most. */
export const MOST_INSTANCES = 1000;
/** A rule that comes less often than once in so many of its steps is no timetable. */
const WIDEST_INTERVAL = 100;

const PLAIN_DAY = /^(MO|TU|WE|TH|FR|SA|SU)$/;

/** The parts that a rule of each frequency may have beside its own. */
const PARTS: Record<string, readonly string[]> = {
  DAILY: ['BYDAY', 'BYMONTH'],
  WEEKLY: ['BYDAY', 'BYMONTH'],
  MONTHLY: ['BYDAY', 'BYMONTH', 'BYMONTHDAY', 'BYSETPOS'],
  YEARLY: ['BYDAY', 'BYMONTH', 'BYMONTHDAY', 'BYSETPOS'],
};

/**
 * Is a rule one that can be worked out for certain? Others may have no instance for thousands of years, and looking for
 * one would keep everybody else waiting.
 */
export function isPlainRule(rule: ICAL.Recur): boolean {
  const allowed = PARTS[rule.freq];
  if (!allowed || !(rule.interval >= 1 && rule.interval <= WIDEST_INTERVAL)) return false;
  const parts = rule.parts as Record<string, (string | number)[] | undefined>;
  const named = Object.keys(parts).filter((name) => (parts[name]?.length ?? 0) > 0);
  if (named.some((name) => !allowed.includes(name))) return false;
  const days = (parts.BYDAY ?? []).map(String);
  const isDaily = rule.freq === 'DAILY' || rule.freq === 'WEEKLY';
  // Every so many days and on a day of the week may never meet.
  if (rule.freq === 'DAILY' && rule.interval > 1 && named.length > 0) return false;
  return !isDaily || days.every((day) => PLAIN_DAY.test(day));
}

/**
 * The wall times at which a plain rule comes, from its beginning up to a wall time; at most so many, a thousand unless said.
 * @param toWall puts the rule's own end, where that is an instant, on the event's clock
 */
export function expandRule(
  rule: ICAL.Recur,
  begins: number,
  until: number,
  toWall: (at: number) => number,
  most = MOST_INSTANCES,
): number[] {
  const text = rule
    .toString()
    .split(';')
    .filter((part) => !part.startsWith('UNTIL='))
    .join(';');
  const ends = rule.until;
  const last = !ends ? until : Math.min(until, ends.isDate ? wallOf(ends) + 86_399_000 : endOf(ends, toWall));
  const options = RRule.parseString(text);
  const bounded = new RRule({ ...options, dtstart: new Date(begins), until: new Date(last) });
  return bounded.all((_, count) => count < most).map((date) => date.getTime());
}

function endOf(ends: ICAL.Time, toWall: (at: number) => number): number {
  return ends.zone?.tzid === 'UTC' ? toWall(wallOf(ends)) : wallOf(ends);
}
