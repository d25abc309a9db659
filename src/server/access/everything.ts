/** One learner, everything, in order: every visit with its events, and totals by week. */
import { IsOptional } from 'class-validator';
import { studyHours, workingShare, type StudyHours, type WorkingHours } from '@/core/access/when';
import { byWeek, type Week } from '@/core/access/weeks';
import { dayOf, startOfDay } from '@/core/time/zone';
import { contactDetailsOf } from '@/data/people/contact-details';
import { endOfView, type View } from '@/data/view';
import { visitsOfLearners, type EventRow, type VisitRow } from '@/data/access/visits';
import { eventsOfPerson } from '../archive/log';
import { workingHours } from '../courses/calendar';
import { AsDay, InvalidInput, readInput, type Values } from '../request/input';
import type { Runtime } from '../runtime';

/** Events on one page: as many as one would print. */
const MOST_SHOWN = 1500;

class EverythingQuery {
  @IsOptional() @AsDay() from?: number;
  @IsOptional() @AsDay() to?: number;
}

/** A visit with its events; null where those are not on this page. */
interface ShownVisit extends VisitRow {
  shown: EventRow[] | null;
}

export interface Everything {
  from: number | null;
  /** Included. */
  to: number | null;
  /** Every week from the first visit on, to the last that the period has come to. */
  weeks: Week<ShownVisit>[];
  /** Totals of the whole period, on this page or not. */
  visits: number;
  events: number;
  ms: number;
  /** The day from which the next page goes on; null at the end. */
  next: number | null;
  hours: StudyHours;
  working: { share: number | null; hours: WorkingHours; zone: string };
}

/** @throws InvalidInput for a date that is none, or a period that ends before it starts */
export async function everythingOf(
  runtime: Pick<Runtime, 'db' | 'zone' | 'settings'>,
  view: View,
  learnerId: number,
  values: Values,
): Promise<Everything> {
  const { from = null, to = null } = readInput(EverythingQuery, values);
  if (from !== null && to !== null && to < from) throw new InvalidInput([{ field: 'to', message: 'lies before from' }]);
  const { db, zone } = runtime;
  const { viewer, segment } = view;
  const end = Math.min(endOfView(view) + 1, to === null ? Infinity : startOfDay(to + 1, zone));
  const found = await visitsOfLearners(db, viewer, segment, [learnerId], {
    from: from === null ? undefined : startOfDay(from, zone),
    to: end,
  });
  const visits = found.reverse();
  const shown: VisitRow[] = [];
  let count = 0;
  let next: number | null = null;
  for (const visit of visits) {
    const day = dayOf(visit.start, zone);
    // A page ends with a day, and has at least one.
    if (count + visit.events > MOST_SHOWN && shown.length > 0 && day !== dayOf(shown.at(-1)!.start, zone)) {
      next = day;
      break;
    }
    shown.push(visit);
    count += visit.events;
  }
  const events =
    shown.length === 0
      ? []
      : await eventsOfPerson(
          runtime,
          view,
          learnerId,
          [shown[0].first, Math.max(...shown.map((visit) => visit.last))],
          count,
        );
  const theirZone = (await contactDetailsOf(db, [learnerId])).get(learnerId)?.timezone ?? zone;
  const times = visits.map(({ first, ms }) => ({ start: first, ms }));
  const hours = await workingHours({ db });
  return {
    from,
    to,
    weeks: byWeek(withEvents(visits, shown.length, events), Math.min(end - 1, view.now), zone),
    visits: visits.length,
    events: visits.reduce((sum, visit) => sum + visit.events, 0),
    ms: visits.reduce((sum, visit) => sum + visit.ms, 0),
    next,
    hours: studyHours(times, theirZone),
    working: { share: workingShare(times, hours, theirZone), hours, zone: theirZone },
  };
}

/** The visits, those on this page with their events. */
function withEvents(visits: readonly VisitRow[], count: number, events: readonly EventRow[]): ShownVisit[] {
  let place = 0;
  return visits.map((visit, index) => {
    if (index >= count) return { ...visit, shown: null };
    // Events and visits come in the same order.
    const begin = place;
    while (place < events.length && events[place].at <= visit.last) place += 1;
    return { ...visit, shown: events.slice(begin, place) };
  });
}
