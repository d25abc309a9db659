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

/** Empty weeks in a row that are worth a line each: half a year. Of a longer silence none is given. */
const MOST_EMPTY = 26;

/**
 * Visits by the week that they start in, with totals: every week from the first visit's to that of
 * an instant (or of the last visit, if that is later), also those in which nothing was done, unless
 * there are more than half a year of them in a row.
 * @param visits in the order of time
 */
export function byWeek<T extends VisitTotals>(visits: readonly T[], until: number, zone: string): Week<T>[] {
  const weeks: Week<T>[] = [];
  let lastDay = Number.NaN;
  for (const visit of visits) {
    const day = dayOf(visit.start, zone);
    goOnTo(weeks, day - weekday(day));
    const week = weeks.at(-1)!;
    week.visits.push(visit);
    week.ms += visit.ms;
    week.events += visit.events;
    if (day !== lastDay) week.activeDays += 1;
    lastDay = day;
  }
  const end = dayOf(until, zone);
  if (weeks.length > 0 && end > lastDay) goOnTo(weeks, end - weekday(end));
  return weeks;
}

/** Adds the weeks up to one that are not there yet. */
function goOnTo<T extends VisitTotals>(weeks: Week<T>[], monday: number): void {
  const last = weeks.at(-1)?.monday;
  if (last === monday) return;
  const next = last === undefined || monday - last > 7 * (MOST_EMPTY + 1) ? monday : last + 7;
  for (let at = next; at <= monday; at += 7) weeks.push({ monday: at, visits: [], ms: 0, events: 0, activeDays: 0 });
}
