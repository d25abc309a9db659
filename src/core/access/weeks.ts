/** What was done week by week. */
import { dayOf, weekday } from '../time/zone';

/** A visit, as far as totals go. */
export interface VisitTotals {
  start: number;
  /** Its length, in ms. */
  ms: number;
  events: number;
}

export interface Week<T extends VisitTotals = VisitTotals> {
  /** Its Monday. */
  monday: number;
  visits: T[];
  ms: number;
  events: number;
  activeDays: number;
}

/**
 * Visits by the week that they start in, with totals: every week from the first visit's to that of
 * an instant (or of the last visit, if that is later), also those in which nothing was done.
 * @param visits in the order of time
 */
export function byWeek<T extends VisitTotals>(visits: readonly T[], until: number, zone: string): Week<T>[] {
  if (visits.length === 0) return [];
  const mondayOf = (day: number) => day - weekday(day);
  const days = visits.map(({ start }) => dayOf(start, zone));
  const first = mondayOf(days[0]);
  const last = mondayOf(Math.max(dayOf(until, zone), days.at(-1)!));
  const weeks = Array.from({ length: (last - first) / 7 + 1 }, (_, index): Week<T> => ({
    monday: first + 7 * index,
    visits: [],
    ms: 0,
    events: 0,
    activeDays: 0,
  }));
  for (const [index, visit] of visits.entries()) {
    const week = weeks[(mondayOf(days[index]) - first) / 7];
    week.visits.push(visit);
    week.ms += visit.ms;
    week.events += visit.events;
    if (days[index] !== days[index - 1]) week.activeDays += 1;
  }
  return weeks;
}
