/** Reading sessions out of an iCalendar file (RFC 5545): each instance of each event as a row of a sessions file. */
import ICAL from 'ical.js';
import { DAY } from '../time/zone';
import { MOST_INSTANCES, expandRule, isPlainRule, wallOf } from './calendar-rule';
import { openClocks, type Clock } from './calendar-zone';

/** A session as a file has it: texts, as they are checked on their way in. */
export interface CalendarRow {
  course: string;
  group: string;
  session_id: string;
  title: string;
  starts_at: string;
  ends_at: string;
  mode: 'online' | 'in_person';
  place: string;
  cancelled: 'yes' | 'no';
}

export interface ReadCalendarOptions {
  /** Of every event in it; else each says its own among its categories, as DRY or DRY/A. */
  course?: string;
  group?: string;
  /** Of times that have none. */
  zone: string;
  /** Instances of a rule are looked at up to here: a rule may have no end. */
  until: number;
}

/** Not a calendar, in words. */
export class NotACalendar extends Error {
  override name = 'NotACalendar';
}

/** Events in one file, and days of their own that one of them names, at most. */
const MOST_EVENTS = 20_000;
const MOST_DATES = 2000;
/** Instances of all events of one file at most: more is no institution's timetable. */
const MOST_IN_ALL = 20_000;

/** What is put behind an id of ours to make it one of the world's. */
export const OURS = '@lee-shore';

function textOf(component: ICAL.Component, name: string): string {
  const value = component.getFirstPropertyValue(name);
  return value === null || value === undefined ? '' : String(value).trim();
}

function iso(at: number): string {
  return new Date(at).toISOString();
}

/** The parts of an event that are the same for each of its instances, or an instance's own. */
function wordsOf(event: ICAL.Component, options: ReadCalendarOptions) {
  const location = textOf(event, 'location');
  const link = [textOf(event, 'conference'), textOf(event, 'url'), location].find((text) => /^https?:\/\//i.test(text));
  const named = event
    .getAllProperties('categories')
    .flatMap((property) => property.getValues().map(String))
    .map((text) => text.split('/'))[0];
  return {
    course: options.course ?? named?.[0] ?? '',
    group: options.group ?? named?.slice(1).join('/') ?? '',
    title: textOf(event, 'summary'),
    mode: link === undefined ? ('in_person' as const) : ('online' as const),
    place: location || (link ?? ''),
    cancelled: textOf(event, 'status').toUpperCase() === 'CANCELLED' ? ('yes' as const) : ('no' as const),
  };
}

/** What reading one file goes by. */
interface Reading extends ReadCalendarOptions {
  clockOf: (tzid: string | null) => Clock;
  /** Instances that the file may still have. */
  left: { instances: number };
}

const UTC: Clock = { toInstant: (wall) => wall, toWall: (at) => at };

/** The clock of a time: UTC where it says so, else that of the zone its property names. */
function clockFor(property: ICAL.Property | null, time: ICAL.Time, { clockOf }: Reading): Clock {
  if (time.zone === ICAL.Timezone.utcTimezone) return UTC;
  const tzid = property?.getFirstParameter('tzid');
  return clockOf(typeof tzid === 'string' && tzid !== '' ? tzid.replace(/^\//, '') : null);
}

/** The first value of a property as an instant; null for none. */
function instantOf(event: ICAL.Component, name: string, reading: Reading): number | null {
  const property = event.getFirstProperty(name);
  const time = property?.getFirstValue() as ICAL.Time | null | undefined;
  return time ? clockFor(property, time, reading).toInstant(wallOf(time)) : null;
}

/** Ms of an event: from its end, its duration, or none. */
function lengthOf(event: ICAL.Component, start: number, reading: Reading): number {
  const end = instantOf(event, 'dtend', reading);
  if (end !== null) return end - start;
  const duration = event.getFirstPropertyValue('duration') as ICAL.Duration | null;
  return (duration?.toSeconds() ?? 0) * 1000;
}

/** Is a time as it is written one that a calendar and a clock show? Month 13 is read as January of the next year. */
function isShown(event: ICAL.Component, time: ICAL.Time): boolean {
  const [, , , written] = event.getFirstProperty('dtstart')!.jCal as unknown as string[];
  return written === time.toString();
}

/** One row of an event that stands at its own time. */
function rowAt(event: ICAL.Component, id: string, reading: Reading): CalendarRow {
  const begins = event.getFirstPropertyValue('dtstart') as ICAL.Time | null;
  const words = { ...wordsOf(event, reading), session_id: id };
  // What has no time of day, or one that no clock shows, is no session; the check of the row says so.
  if (!begins || begins.isDate) return { ...words, starts_at: begins ? 'all day' : '', ends_at: '' };
  if (!isShown(event, begins)) return { ...words, starts_at: 'a time that there is not', ends_at: '' };
  const start = instantOf(event, 'dtstart', reading)!;
  return { ...words, starts_at: iso(start), ends_at: iso(start + lengthOf(event, start, reading)) };
}

/** What an instance is called by: the time on its event's clock at which its rule has it. */
function instanceName(wall: number): string {
  return new Date(wall).toISOString().slice(0, 16);
}

/** The days of their own that an event names, on its clock; a bare date is that day at `timeOfDay`. */
function datesOf(event: ICAL.Component, name: string, clock: Clock, timeOfDay: number, reading: Reading): number[] {
  const dates: number[] = [];
  for (const property of event.getAllProperties(name)) {
    // Cut before they are read: a value of a list costs a thousand times its letters.
    (property.jCal as unknown[]).splice(3 + MOST_DATES - dates.length);
    if (property.jCal.length <= 3) break;
    for (const value of property.getValues()) {
      const time = ((value as { start?: ICAL.Time }).start ?? value) as ICAL.Time;
      if (time.isDate) dates.push(wallOf(time) + timeOfDay);
      else dates.push(clock.toWall(clockFor(property, time, reading).toInstant(wallOf(time))));
    }
  }
  return dates;
}

/** The instances of an event with a rule or with dates of its own, those that were moved or cancelled at their own times. */
function instancesOf(
  master: ICAL.Component,
  moved: readonly ICAL.Component[],
  id: string,
  reading: Reading,
): CalendarRow[] {
  const property = master.getFirstProperty('dtstart')!;
  const begins = property.getFirstValue() as ICAL.Time;
  const clock = clockFor(property, begins, reading);
  const first = wallOf(begins);
  const timeOfDay = first - Math.floor(first / DAY) * DAY;
  const rule = master.getFirstPropertyValue('rrule') as ICAL.Recur | null;
  const until = clock.toWall(Math.min(reading.until, FAR));
  const left = new Set(datesOf(master, 'exdate', clock, timeOfDay, reading));
  const walls = [
    ...(rule
      ? expandRule(rule, first, until, clock.toWall, Math.min(MOST_INSTANCES, reading.left.instances + 1))
      : [first]),
    ...datesOf(master, 'rdate', clock, timeOfDay, reading).filter((wall) => wall <= until),
  ].filter((wall) => !left.has(wall));
  reading.left.instances -= walls.length;
  if (reading.left.instances < 0) throw new NotACalendar(`It holds more than ${MOST_IN_ALL} sessions.`);
  const movedByName = new Map(moved.map((one) => [instanceName(recurrenceOf(one, clock, reading)), one]));
  const words = wordsOf(master, reading);
  const length = lengthOf(master, clock.toInstant(first), reading);
  const rows = [...new Set(walls)]
    .sort((a, b) => a - b)
    .map((wall): CalendarRow => {
      const name = instanceName(wall);
      const other = movedByName.get(name);
      movedByName.delete(name);
      const session_id = `${id}/${name}`;
      if (other) return rowAt(other, session_id, reading);
      const at = clock.toInstant(wall);
      return { ...words, session_id, starts_at: iso(at), ends_at: iso(at + length) };
    });
  // One that was moved and that the rule does not have stands for itself.
  return [...rows, ...[...movedByName].map(([name, other]) => rowAt(other, `${id}/${name}`, reading))];
}

/** Which instance one that was moved stands for, on its event's clock: it may be said in another zone. */
function recurrenceOf(event: ICAL.Component, clock: Clock | null, reading: Reading): number {
  const property = event.getFirstProperty('recurrence-id')!;
  const time = property.getFirstValue() as ICAL.Time;
  const propertyClock = clockFor(property, time, reading);
  return (clock ?? propertyClock).toWall(propertyClock.toInstant(wallOf(time)));
}

/** An id as it is kept: one that we made ourselves is ours again. */
function keptId(uid: string): string {
  return uid.endsWith(OURS) ? uid.slice(0, -OURS.length) : uid;
}

/**
 * Every session of a calendar, each instance of a repeated one by itself: left-out days are not there, moved ones stand
 * at their new times under the id of the old, cancelled ones say so.
 *
 * @throws NotACalendar for text that is none
 */
export function readCalendar(text: string, options: ReadCalendarOptions): CalendarRow[] {
  let root: ICAL.Component;
  try {
    root = new ICAL.Component(ICAL.parse(text));
  } catch {
    throw new NotACalendar('It begins like a calendar, but cannot be read as one (RFC 5545).');
  }
  const events = root.getAllSubcomponents('vevent');
  if (events.length > MOST_EVENTS) throw new NotACalendar(`It holds more than ${MOST_EVENTS} events.`);
  const reading: Reading = {
    ...options,
    clockOf: openClocks(root, options.zone, Math.min(options.until, FAR)),
    left: { instances: MOST_IN_ALL },
  };
  const byId = new Map<string, { master: ICAL.Component | null; moved: ICAL.Component[] }>();
  for (const [index, event] of events.entries()) {
    const uid = textOf(event, 'uid') || `event-${index + 1}`;
    const known = byId.get(uid) ?? { master: null, moved: [] };
    if (event.getFirstPropertyValue('recurrence-id')) known.moved.push(event);
    // The same id twice: the later version stands.
    else if (known.master === null || sequenceOf(event) >= sequenceOf(known.master)) known.master = event;
    byId.set(uid, known);
  }
  return [...byId].flatMap(([uid, { master, moved }]) => rowsOf(keptId(uid), master, moved, reading));
}

function sequenceOf(event: ICAL.Component): number {
  return Number(textOf(event, 'sequence')) || 0;
}

function rowsOf(
  id: string,
  master: ICAL.Component | null,
  moved: readonly ICAL.Component[],
  reading: Reading,
): CalendarRow[] {
  if (master === null) {
    return moved.map((one) => rowAt(one, `${id}/${instanceName(recurrenceOf(one, null, reading))}`, reading));
  }
  const begins = master.getFirstPropertyValue('dtstart') as ICAL.Time | null;
  const isRepeated = master.hasProperty('rrule') || master.hasProperty('rdate');
  if (!isRepeated || !begins || begins.isDate) return [rowAt(master, id, reading)];
  const rule = master.getFirstPropertyValue('rrule') as ICAL.Recur | null;
  // What cannot be worked out is a row of its own, so that the check of the row names it.
  const strange = () => [{ ...rowAt(master, id, reading), starts_at: 'by a rule that is no timetable’s', ends_at: '' }];
  if (rule && !isPlainRule(rule)) return strange();
  try {
    return instancesOf(master, moved, id, reading);
  } catch (error) {
    if (error instanceof NotACalendar) throw error;
    return strange();
  }
}

/** How long a calendar is looked ahead: two years. */
export const LOOK_AHEAD = 731 * DAY;
/** No calendar is looked ahead further than this: the year 2200. */
const FAR = Date.UTC(2200, 0, 1);
