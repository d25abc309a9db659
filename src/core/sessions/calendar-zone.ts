/** The clocks on the wall that times of an iCalendar file are of. */
import type ICAL from 'ical.js';
import { DAY, fromWallClock, isTimeZone, offsetAt } from '../time/zone';
import { expandRule, isPlainRule, wallOf } from './calendar-rule';

/** A clock on the wall: wall times are given as if they were UTC. */
export interface Clock {
  toInstant(wall: number): number;
  toWall(at: number): number;
}

/** A zone that we know by its name. */
function clockOf(zone: string): Clock {
  return { toInstant: (wall) => fromWallClock(wall, zone), toWall: (at) => at + offsetAt(at, zone) };
}

interface Onset {
  /** Wall time from which it holds. */
  from: number;
  offset: number;
}

/** Years ahead for which a file's own clock changes are worked out. */
const AHEAD = 5 * 366 * DAY;
/** Descriptions of a zone that are read, and changes of its clock of each, at most: there are two a year. */
const MOST_PARTS = 100;
const MOST_ONSETS = 200;

/** When a file's own zone changes its clock: each change that it describes, up to some years from `now`. */
function onsetsOf(zone: ICAL.Component, until: number): Onset[] {
  const parts = [...zone.getAllSubcomponents('standard'), ...zone.getAllSubcomponents('daylight')].slice(0, MOST_PARTS);
  return parts.flatMap((part): Onset[] => {
    const offset = (part.getFirstPropertyValue('tzoffsetto') as ICAL.UtcOffset | null)?.toSeconds() ?? 0;
    const begins = part.getFirstPropertyValue('dtstart') as ICAL.Time | null;
    if (!begins) return [];
    const from = wallOf(begins);
    const rule = part.getFirstPropertyValue('rrule') as ICAL.Recur | null;
    const onsets = rule && isPlainRule(rule) ? expandRule(rule, from, until, (wall) => wall, MOST_ONSETS) : [];
    return [from, ...onsets].map((at) => ({ from: at, offset: offset * 1000 }));
  });
}

/** A zone that a file describes itself, under a name of its own. */
function describedClock(zone: ICAL.Component, around: number): Clock {
  const onsets = onsetsOf(zone, around + AHEAD).sort((a, b) => a.from - b.from);
  const offsetOf = (wall: number) => (onsets.findLast(({ from }) => from <= wall) ?? onsets[0])?.offset ?? 0;
  return {
    toInstant: (wall) => wall - offsetOf(wall),
    toWall: (at) => at + offsetOf(at + offsetOf(at)),
  };
}

/**
 * The clock of a zone that a time names: the one we know by that name, else the file's own description of it, else the
 * import's. What a file says of a known zone's clock changes is often out of date.
 */
export function openClocks(root: ICAL.Component, zone: string, around: number): (tzid: string | null) => Clock {
  const described = new Map(
    root.getAllSubcomponents('vtimezone').map((one) => [String(one.getFirstPropertyValue('tzid')), one]),
  );
  const known = new Map<string | null, Clock>();
  return (tzid) => {
    let clock = known.get(tzid);
    if (!clock) {
      const describedZone = tzid === null ? undefined : described.get(tzid);
      if (tzid !== null && isTimeZone(tzid)) clock = clockOf(tzid);
      else clock = describedZone ? describedClock(describedZone, around) : clockOf(zone);
      known.set(tzid, clock);
    }
    return clock;
  };
}
