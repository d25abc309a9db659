/** How long what is kept of people is kept, by kind, after the end of the course that it is of. */
import { dateOfDay } from '../time/zone';

/** What has a number of days of its own. */
export const KEPT_KINDS = ['events', 'visits', 'messages', 'notes', 'readings', 'looks'] as const;
export type KeptKind = (typeof KEPT_KINDS)[number];

/** Days after the end of a course by kind; null for ever. */
export type KeptDays = Record<KeptKind, number | null>;

export const DEFAULT_KEPT: Readonly<KeptDays> = {
  events: 730,
  visits: 730,
  messages: 365,
  notes: 365,
  readings: 730,
  looks: 365,
};

/** A hundred years: more is for ever. */
export const MOST_KEPT = 36_500;

/** How long a change can be taken back before anything goes by it, in ms. */
export const TAKE_BACK = 86_400_000;

export const KEPT_WORDS: Record<KeptKind, { title: string; says: string }> = {
  events: { title: 'Access log', says: 'each event of a course, with its network address; figures by day stay' },
  visits: { title: 'Visits', says: 'when each visit began and ended; time online by day stays' },
  messages: {
    title: 'Messages',
    says: 'texts and addresses of messages and answers; that somebody was written to stays',
  },
  notes: { title: 'Notes', says: 'notes, and the words of calls, follow-ups and flares; that there was a call stays' },
  readings: { title: 'Readings of drift', says: 'drift day by day, with its reasons' },
  looks: { title: 'Who looked', says: 'who opened which learner, and who took what away' },
};

/** Kinds that are a course's; the others are a learner's, and go by the last of their courses to end. */
export const KINDS_BY_COURSE = ['events', 'visits', 'readings'] as const satisfies readonly KeptKind[];
export type KindByCourse = (typeof KINDS_BY_COURSE)[number];

/**
 * The first day on which something is kept no more.
 *
 * @param endsDay the last day of the course; null for one without an end, of which everything stays
 * @example goesOnDay(19_000, 30) // 19_031
 */
export function goesOnDay(endsDay: number | null, days: number | null): number | null {
  return endsDay === null || days === null ? null : endsDay + days + 1;
}

/**
 * The last day on which a course may have ended for what is of it to go on a day; null where nothing goes.
 *
 * @example endedBy(19_031, 30) // 19_000
 */
export function endedBy(today: number, days: number | null): number | null {
  return days === null ? null : today - days - 1;
}

/** Days as one says them. */
export function sayKept(days: number | null): string {
  return days === null ? 'for ever' : days === 1 ? '1 day' : `${days} days`;
}

/** What goes by two settings, in words: only what changes. */
export function sayKeptChanges(from: KeptDays, to: KeptDays): Record<string, [string, string]> {
  return Object.fromEntries(
    KEPT_KINDS.filter((kind) => from[kind] !== to[kind]).map((kind) => [
      kind,
      [sayKept(from[kind]), sayKept(to[kind])] as [string, string],
    ]),
  );
}

/** A day as a date, or nothing. */
export const dateOrNull = (day: number | null) => (day === null ? null : dateOfDay(day));
