/** One learner's page, and one's place in the list one came from. */
import { contactsOf } from '@/data/contact/contacts';
import { findNotes, type NoteRow } from '@/data/contact/notes';
import { sayDay } from '@/core/time/words';
import { dayOf } from '@/core/time/zone';
import type { ContactShown, Person } from '@/core/contact/person';
import { findLearner, learnersById } from '@/data/people/learners';
import { endOfView, type DriftView } from '@/data/view';
import type { EventRow } from '@/data/access/visits';
import { learnerDetails, otherContacts, type LearnerDetails, type OtherContact } from '@/data/people/contact-details';
import { notedWishes, type NotedWish } from '@/data/contact/wishes';
import { staffInCrew, type StaffInCrew } from '@/data/people/crew';
import { lastMerge } from '@/data/people/merge';
import { isLead, isStaffMember } from '@/core/staff/rights';
import { eventsOfPerson } from '../archive/log';
import { NotFound } from '../request/input';
import { explainPeople, showContact } from './people';
import type { Runtime } from '../runtime';
import { matches, needOrder, type WatchFilter } from '../drift/watch';

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
export async function learnerPage(runtime: Runtime, view: DriftView, learnerId: string): Promise<Person> {
  const id = await findLearner(runtime.db, view.viewer, learnerId);
  if (id === null) throw new NotFound('No such learner');
  const [person] = await explainPeople(runtime, view, [id], {
    wakeDays: WEEKS * 7,
    visits: 3,
    contacts: 1,
    status: 'all',
  });
  if (!person) throw new NotFound('No such learner');
  return person;
}

/** Somebody beside a learner, with the day since when they may receive reports, in words. */
export type ContactOfLearner = OtherContact & { allowedSince: string | null };

/** Contacts and pinned notes shown first. */
const TRIED = 8;
const PINNED = 5;

/** What stands on a learner's page beside what a list shows of them. */
export interface LearnerExtras {
  /** Their instructors, mentors and whoever has them on a caseload. */
  crew: StaffInCrew[];
  contacts: ContactOfLearner[];
  /** The last contacts with what came of each, and the notes that are pinned: what the next mentor reads first. */
  tried: ContactShown[];
  pinned: NoteRow[];
  /** How they wish to be written to, with who noted each. */
  wishes: NotedWish[];
  /** Their details for changing; null for somebody who may not, or while names are hidden. */
  details: LearnerDetails | null;
  /** May change who they are and their enrolments. */
  lead: boolean;
  /** May make two records one. */
  mayMerge: boolean;
  merged: { gone: string; at: number } | null;
}

export async function learnerExtras({ db, zone }: Runtime, view: DriftView, person: Person): Promise<LearnerExtras> {
  const { viewer } = view;
  const mayChange = isStaffMember(viewer) && viewer.standInKey === null;
  const [crew, contacts, details, merge, tried, pinned, wishes] = await Promise.all([
    staffInCrew(db, viewer, person.id),
    otherContacts(db, viewer, person.id),
    mayChange ? learnerDetails(db, person.id) : null,
    mayChange ? lastMerge(db, person.id) : null,
    contactsOf(db, viewer, [person.id], { each: TRIED, until: endOfView(view) }),
    findNotes(db, { viewer, segment: {} }, { learnerId: person.id, pinned: true, limit: PINNED }),
    notedWishes(db, viewer, person.id),
  ]);
  const whole = viewer.all || viewer.organisations.length > 0 || viewer.learners.length > 0;
  return {
    crew,
    contacts: contacts.map((one) => ({
      ...one,
      allowedSince: one.allowed_at === null ? null : sayDay(dayOf(one.allowed_at, zone)),
    })),
    tried: tried.map((row) => showContact(row, view, zone)),
    pinned: pinned.rows,
    wishes,
    details,
    lead: mayChange && isLead(viewer),
    mayMerge: mayChange && whole,
    merged: merge && { gone: merge.gone, at: merge.at },
  };
}

/** The events of one visit, as far as they lie in view. */
export async function visitEvents(
  runtime: Runtime,
  view: DriftView,
  learnerId: number,
  visit: { first: number; last: number },
): Promise<EventRow[]> {
  return eventsOfPerson(runtime, view, learnerId, [visit.first, visit.last], EVENTS_SHOWN);
}

/** Where a learner stands on the Watch; null when they are not on it. */
export async function positionOnWatch(
  runtime: Runtime,
  view: DriftView,
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
