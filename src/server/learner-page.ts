/** One learner's page, and one's place in the list one came from. */
import type { Person } from '@/core/followup/person';
import { findLearner, learnersById } from '@/data/learners';
import type { View } from '@/data/view';
import { eventsOfLearner, type EventRow } from '@/data/visits';
import { NotFound } from './input';
import { explainPeople } from './people';
import type { Runtime } from './runtime';
import { matches, needOrder, type WatchFilter } from './watch';

export const VISITS_SHOWN = 40;
const WEEKS = 12;
/** Events of one opened visit shown at most. */
const EVENTS_SHOWN = 1000;

export interface Place {
  position: number;
  of: number;
  previous: string | null;
  next: string | null;
}

/** Everything of one learner that the viewer may see. @throws NotFound for anybody else's */
export async function learnerPage(runtime: Runtime, view: View, learnerId: string): Promise<Person> {
  const id = await findLearner(runtime.db, view.viewer, learnerId);
  if (id === null) throw new NotFound('No such learner');
  const [person] = await explainPeople(runtime, view, [id], {
    wakeDays: WEEKS * 7,
    visits: VISITS_SHOWN,
    contacts: 50,
    status: 'all',
  });
  if (!person) throw new NotFound('No such learner');
  return person;
}

/** The events of one visit, as far as they lie in view. */
export async function visitEvents(
  runtime: Runtime,
  view: View,
  person: Person,
  visitStart: number,
): Promise<EventRow[]> {
  const visit = person.visits.find((one) => one.start === visitStart);
  if (!visit) return [];
  return eventsOfLearner(runtime.db, view.viewer, view.lens, person.id, visit.first, visit.last, EVENTS_SHOWN);
}

/** Where a learner stands on the Watch; null when they are not on it. */
export async function placeOnWatch(
  runtime: Runtime,
  view: View,
  filter: WatchFilter,
  id: number,
): Promise<Place | null> {
  const listed = (await needOrder(runtime, view)).filter((row) => matches(row, filter));
  const index = listed.findIndex((row) => row.learnerId === id);
  if (index < 0) return null;
  const beside = [listed[index - 1]?.learnerId, listed[index + 1]?.learnerId].filter((one) => one !== undefined);
  const rows = await learnersById(runtime.db, view, beside);
  const external = (one: number | undefined) => rows.find((row) => row.id === one)?.learner_id ?? null;
  return {
    position: index + 1,
    of: listed.length,
    previous: external(listed[index - 1]?.learnerId),
    next: external(listed[index + 1]?.learnerId),
  };
}
