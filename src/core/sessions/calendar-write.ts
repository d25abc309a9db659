/** Sessions as an iCalendar feed (RFC 5545, RFC 7986). */
import ICAL from 'ical.js';
import { OURS } from './calendar-read';
import type { SessionMode } from './timetable';

/** A session as a calendar says it. */
export interface CalendarSession {
  session_id: string;
  course: string;
  course_title: string;
  group: string | null;
  title: string;
  starts_at: number;
  ends_at: number;
  mode: SessionMode;
  place: string;
  cancelled: number;
  reason: string;
  sequence: number;
  changed_at: number;
}

/** Written as they stand (RFC 5545, 3.3.13): a line break in one would begin a line of its own. */
const AS_IT_STANDS: ReadonlySet<string> = new Set(['url', 'uid']);

/** What can be written: of texts the line breaks are escaped, and nothing else that cannot be seen is any text's. */
function escapable(name: string, text: string): string {
  return AS_IT_STANDS.has(name) ? oneLine(text) : text.replaceAll(/(?!\n)[\p{Cc}\u2028\u2029]/gu, ' ');
}

function oneLine(text: string): string {
  return text.replaceAll(/[\p{Cc}\u2028\u2029]+/gu, ' ').trim();
}

function time(at: number): ICAL.Time {
  return ICAL.Time.fromJSDate(new Date(at), true);
}

function eventOf(session: CalendarSession): ICAL.Component {
  const event = new ICAL.Component('vevent');
  const add = (name: string, value: string | number | ICAL.Time) =>
    event.addPropertyWithValue(name, (typeof value === 'string' ? escapable(name, value) : value) as string);
  add('uid', `${session.session_id}${OURS}`);
  add('dtstamp', time(session.changed_at));
  add('last-modified', time(session.changed_at));
  add('sequence', session.sequence);
  add('dtstart', time(session.starts_at));
  add('dtend', time(session.ends_at));
  add('summary', session.title);
  add('categories', session.group === null ? session.course : `${session.course}/${session.group}`);
  const description = [
    session.course_title,
    session.group && `group ${session.group}`,
    session.reason && `Cancelled: ${session.reason}`,
  ];
  add('description', description.filter(Boolean).join(' · '));
  if (session.place) add('location', session.place);
  if (session.mode === 'online' && /^https?:\/\//i.test(session.place)) add('url', session.place);
  add('status', session.cancelled ? 'CANCELLED' : 'CONFIRMED');
  add('transp', session.cancelled ? 'TRANSPARENT' : 'OPAQUE');
  return event;
}

/** A calendar that a calendar program can subscribe to: times in UTC, so that it needs no zones of its own. */
export function writeCalendar(name: string, sessions: readonly CalendarSession[]): string {
  const calendar = new ICAL.Component('vcalendar');
  calendar.addPropertyWithValue('version', '2.0');
  calendar.addPropertyWithValue('prodid', '-//Lee Shore//Sessions//EN');
  calendar.addPropertyWithValue('name', oneLine(name));
  calendar.addPropertyWithValue('x-wr-calname', oneLine(name));
  calendar
    .addPropertyWithValue('refresh-interval', ICAL.Duration.fromSeconds(3600) as unknown as string)
    .setParameter('value', 'DURATION');
  for (const session of sessions) calendar.addSubcomponent(eventOf(session));
  return `${calendar.toString()}\r\n`;
}
