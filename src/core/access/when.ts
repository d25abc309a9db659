/** When somebody studies: by hour and weekday, and within their working hours. */
import { DAY, HOUR, MINUTE, dayOf, offsetAt, startOfDay, weekday } from '../time/zone';

/** A visit, from its first event on. */
export interface VisitTime {
  start: number;
  /** Its length, in ms. */
  ms: number;
}

/** Weekdays (0 = Monday) and the time of day, in minutes from midnight, that count as working hours. */
export interface WorkingHours {
  days: readonly number[];
  from: number;
  /** Not included. */
  to: number;
}

/** Mon–Fri 08:00–17:00. */
export const USUAL_WORKING_HOURS: WorkingHours = { days: [0, 1, 2, 3, 4], from: 8 * 60, to: 17 * 60 };

/** Milliseconds by weekday (0 = Monday) and hour of the day, by the clock of a zone. */
export type StudyHours = number[][];

/**
 * Spreads visits over the hours of the days of the week. An hour that the clock has twice holds
 * both; one that it leaves out holds nothing.
 */
export function studyHours(visits: readonly VisitTime[], zone: string): StudyHours {
  const grid: StudyHours = Array.from({ length: 7 }, () => new Array<number>(24).fill(0));
  for (const { start, ms } of visits) {
    for (let at = start; at < start + ms;) {
      const wall = at + offsetAt(at, zone);
      // Clocks change on whole quarter hours, so a step to the next one crosses no change.
      const next = Math.min(start + ms, at + 15 * MINUTE - (wall % (15 * MINUTE)));
      grid[weekday(Math.floor(wall / DAY))][Math.floor((wall % DAY) / HOUR)] += next - at;
      at = next;
    }
  }
  return grid;
}

/** The share of the visits' time that lies in working hours; null without any time. */
export function workingShare(visits: readonly VisitTime[], hours: WorkingHours, zone: string): number | null {
  let [inside, all] = [0, 0];
  for (const { start, ms } of visits) {
    const end = start + ms;
    all += ms;
    for (let day = dayOf(start, zone); day <= dayOf(end, zone); day += 1) {
      if (!hours.days.includes(weekday(day))) continue;
      // By the clock, also on a day of 23 or 25 hours.
      const from = atClock(day, hours.from, zone);
      const to = atClock(day, hours.to, zone);
      inside += Math.max(0, Math.min(end, to) - Math.max(start, from));
    }
  }
  return all === 0 ? null : inside / all;
}

/** The instant at which a day's clock shows so many minutes from midnight. */
function atClock(day: number, minutes: number, zone: string): number {
  const midnight = startOfDay(day, zone);
  const plain = midnight + minutes * MINUTE;
  return plain - (offsetAt(plain, zone) - offsetAt(midnight, zone));
}

const NAMES = ['mon', 'tue', 'wed', 'thu', 'fri', 'sat', 'sun'];

/** Reads working hours such as `mon-fri 08:00-17:00`; null for what is none. */
export function readWorkingHours(text: string): WorkingHours | null {
  const match = /^([a-z]{3})(?:-([a-z]{3}))? (\d{2}):(\d{2})-(\d{2}):(\d{2})$/.exec(text.trim().toLowerCase());
  if (!match) return null;
  const [first, last] = [NAMES.indexOf(match[1]), NAMES.indexOf(match[2] ?? match[1])];
  const [from, to] = [Number(match[3]) * 60 + Number(match[4]), Number(match[5]) * 60 + Number(match[6])];
  if (first < 0 || last < first || from >= to || to > 24 * 60 || Number(match[4]) > 59 || Number(match[6]) > 59)
    return null;
  return { days: Array.from({ length: last - first + 1 }, (_, index) => first + index), from, to };
}

function clock(minutes: number): string {
  return `${String(Math.floor(minutes / 60)).padStart(2, '0')}:${String(minutes % 60).padStart(2, '0')}`;
}

/** `mon-fri 08:00-17:00`: what readWorkingHours reads. */
export function writeWorkingHours({ days, from, to }: WorkingHours): string {
  const which = days.length === 1 ? NAMES[days[0]] : `${NAMES[days[0]]}-${NAMES[days.at(-1)!]}`;
  return `${which} ${clock(from)}-${clock(to)}`;
}

/** "Mon to Fri, 08:00 to 17:00". */
export function sayWorkingHours({ days, from, to }: WorkingHours): string {
  const name = (day: number) => NAMES[day][0].toUpperCase() + NAMES[day].slice(1);
  const which = days.length === 1 ? name(days[0]) : `${name(days[0])} to ${name(days.at(-1)!)}`;
  return `${which}, ${clock(from)} to ${clock(to)}`;
}
