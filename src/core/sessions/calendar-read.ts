/** Reading sessions out of an iCalendar file (RFC 5545): each instance of each event as a row of a sessions file. */
import ICAL from 'ical.js';
import { DAY, fromWallClock, isTimeZone } from '../time/zone';

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

/** Instances of one event, and events in one file, at most. */
const MOST_INSTANCES = 1000;
const MOST_EVENTS = 20_000;

/** What is put behind an id of ours to make it one of the world's. */
export const OURS = '@lee-shore';

/** Rules that come more often than daily are no timetable. */
const TOO_OFTEN = ['SECONDLY', 'MINUTELY', 'HOURLY'];

function textOf(component: ICAL.Component, name: string): string {
  const value = component.getFirstPropertyValue(name);
  return value === null || value === undefined ? '' : String(value).trim();
}

/**
 * The instant of a time: by the zone it names where we know that by name, by the file's own description of it, else as a
 * time of `zone`. What a file says of a zone's clock changes is often out of date.
 */
function instantOf(time: ICAL.Time, tzid: string | null, zone: string): number {
  const wall = Date.UTC(time.year, time.month - 1, time.day, time.hour, time.minute, time.second);
  if (time.zone === ICAL.Timezone.utcTimezone) return wall;
  if (tzid !== null && isTimeZone(tzid)) return fromWallClock(wall, tzid);
  if (time.zone === ICAL.Timezone.localTimezone) return fromWallClock(wall, zone);
  return time.toUnixTime() * 1000;
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

function tzidOf(event: ICAL.Component, name: string): string | null {
  const tzid = event.getFirstProperty(name)?.getParameter('tzid');
  return typeof tzid === 'string' ? tzid.replace(/^\//, '') : null;
}

/** Ms of an event: from its end, its duration, or none. */
function lengthOf(event: ICAL.Component, start: number, zone: string): number {
  const end = event.getFirstPropertyValue('dtend') as ICAL.Time | null;
  if (end) return instantOf(end, tzidOf(event, 'dtend') ?? tzidOf(event, 'dtstart'), zone) - start;
  const duration = event.getFirstPropertyValue('duration') as ICAL.Duration | null;
  return (duration?.toSeconds() ?? 0) * 1000;
}

/** One row of an event that stands at its own time. */
function rowAt(event: ICAL.Component, id: string, options: ReadCalendarOptions): CalendarRow {
  const begins = event.getFirstPropertyValue('dtstart') as ICAL.Time | null;
  const words = { ...wordsOf(event, options), session_id: id };
  // What has no time of day is no session; the check of the row says so.
  if (!begins || begins.isDate) return { ...words, starts_at: begins ? 'all day' : '', ends_at: '' };
  const start = instantOf(begins, tzidOf(event, 'dtstart'), options.zone);
  return { ...words, starts_at: iso(start), ends_at: iso(start + lengthOf(event, start, options.zone)) };
}

/** What an instance is called by: the wall clock at which its rule has it. */
function instanceName(time: ICAL.Time): string {
  return new Date(Date.UTC(time.year, time.month - 1, time.day, time.hour, time.minute)).toISOString().slice(0, 16);
}

/** The instances of an event with a rule or with dates of its own, those that were moved or cancelled at their own times. */
function instancesOf(
  master: ICAL.Component,
  moved: readonly ICAL.Component[],
  id: string,
  options: ReadCalendarOptions,
) {
  const event = new ICAL.Event(master, { strictExceptions: false, exceptions: [] });
  const begins = event.startDate;
  const tzid = tzidOf(master, 'dtstart');
  const rows: CalendarRow[] = [];
  const own = new Map(
    moved.map((one) => [instanceName(inZoneOf(one.getFirstPropertyValue('recurrence-id') as ICAL.Time, begins)), one]),
  );
  const words = wordsOf(master, options);
  const start = instantOf(begins, tzid, options.zone);
  const length = lengthOf(master, start, options.zone);
  const iterator = event.iterator();
  for (let count = 0; count < MOST_INSTANCES; count += 1) {
    const next = iterator.next();
    if (!next) break;
    const at = instantOf(next, tzid, options.zone);
    if (at > options.until) break;
    const name = instanceName(next);
    const other = own.get(name);
    own.delete(name);
    const session_id = `${id}/${name}`;
    if (other) rows.push({ ...rowAt(other, session_id, options) });
    else rows.push({ ...words, session_id, starts_at: iso(at), ends_at: iso(at + length) });
  }
  // One that was moved and that the rule does not have stands for itself.
  for (const [name, other] of own) rows.push(rowAt(other, `${id}/${name}`, options));
  return rows;
}

/** The id of an instance may be said in another zone than the event's. */
function inZoneOf(time: ICAL.Time, begins: ICAL.Time): ICAL.Time {
  return time.zone === begins.zone || time.isDate ? time : time.convertToZone(begins.zone!);
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
  for (const zone of root.getAllSubcomponents('vtimezone')) ICAL.TimezoneService.register(zone);
  const byId = new Map<string, { master: ICAL.Component | null; moved: ICAL.Component[] }>();
  for (const [index, event] of events.entries()) {
    const uid = textOf(event, 'uid') || `event-${index + 1}`;
    const known = byId.get(uid) ?? { master: null, moved: [] };
    if (event.getFirstPropertyValue('recurrence-id')) known.moved.push(event);
    // The same id twice: the later version stands.
    else if (known.master === null || sequenceOf(event) >= sequenceOf(known.master)) known.master = event;
    byId.set(uid, known);
  }
  return [...byId].flatMap(([uid, { master, moved }]) => rowsOf(keptId(uid), master, moved, options));
}

function sequenceOf(event: ICAL.Component): number {
  return Number(textOf(event, 'sequence')) || 0;
}

function rowsOf(
  id: string,
  master: ICAL.Component | null,
  moved: readonly ICAL.Component[],
  options: ReadCalendarOptions,
): CalendarRow[] {
  if (master === null) {
    return moved.map((one) =>
      rowAt(one, `${id}/${instanceName(one.getFirstPropertyValue('recurrence-id') as ICAL.Time)}`, options),
    );
  }
  const begins = master.getFirstPropertyValue('dtstart') as ICAL.Time | null;
  const isRepeated = master.hasProperty('rrule') || master.hasProperty('rdate');
  if (!isRepeated || !begins || begins.isDate) return [rowAt(master, id, options)];
  const rule = master.getFirstPropertyValue('rrule') as ICAL.Recur | null;
  if (rule && (TOO_OFTEN.includes(rule.freq) || !(Number.isFinite(rule.interval) && rule.interval > 0))) {
    return [{ ...rowAt(master, id, options), starts_at: 'more often than daily', ends_at: '' }];
  }
  try {
    return instancesOf(master, moved, id, options);
  } catch {
    return [{ ...rowAt(master, id, options), starts_at: 'a rule that cannot be read', ends_at: '' }];
  }
}

/** How long a calendar is looked ahead: two years. */
export const LOOK_AHEAD = 731 * DAY;
