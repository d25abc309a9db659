/** What somebody has done this week, and what came of the week before. */
import { cameBack } from '@/core/contact/came-back';
import { dayOf, startOfDay, weekday } from '@/core/time/zone';
import { contactsOf } from '@/data/contact/contacts';
import { promisedBy } from '@/data/contact/follow-ups';
import { triedBy } from '@/data/drift/tried';
import { keepInScope } from '@/data/people/learners';
import type { Viewer } from '@/data/scope';
import type { Runtime } from '../runtime';

/** The first day of the week of a day: Monday. */
const mondayOf = (day: number) => day - weekday(day);

/** How many people the viewer has tried to reach since Monday. */
export async function contactedThisWeek({ db, clock, zone }: Runtime, viewer: Viewer): Promise<number> {
  const now = clock.now();
  const from = startOfDay(mondayOf(dayOf(now, zone)), zone);
  return (await keepInScope(db, viewer, await triedBy(db, viewer.staffId, from, now))).length;
}

export interface LastWeek {
  /** Its Monday and its Sunday, as days. */
  monday: number;
  sunday: number;
  /** People whom the viewer tried to reach. */
  contacted: number;
  /** Of these: who has answered since, who came back within a week, and who has not. */
  answered: number;
  cameBack: number;
  stillOut: number;
  /** Follow-ups promised in that week. */
  promised: number;
}

/** Contacts of one learner in a week at most: of more, the newest. */
const EACH = 50;

/** What became of those whom the viewer tried to reach in the week before this one; null where there was nobody. */
export async function lastWeek({ db, clock, zone }: Runtime, viewer: Viewer): Promise<LastWeek | null> {
  const now = clock.now();
  const monday = mondayOf(dayOf(now, zone)) - 7;
  const [from, end] = [startOfDay(monday, zone), startOfDay(monday + 7, zone) - 1];
  const [tried, promised] = await Promise.all([
    triedBy(db, viewer.staffId, from, end).then((ids) => keepInScope(db, viewer, ids)),
    promisedBy(db, viewer, from, end),
  ]);
  if (tried.length === 0 && promised === 0) return null;
  const contacts = await contactsOf(db, viewer, tried, { each: EACH, until: end });
  const myContacts = contacts.filter((contact) => contact.by_id === viewer.staffId && contact.at >= from);
  const count = (did: (contact: (typeof myContacts)[number]) => boolean) =>
    new Set(myContacts.filter(did).map((contact) => contact.learner_id)).size;
  const back = count(
    ({ at, last_before, first_after }) =>
      cameBack({ contactAt: at, lastBefore: last_before, firstAfter: first_after }, zone) !== null,
  );
  return {
    monday,
    sunday: monday + 6,
    contacted: tried.length,
    answered: count(({ answered_at }) => answered_at !== null),
    cameBack: back,
    stillOut: tried.length - back,
    promised,
  };
}
