/** Everybody around a learner: staff by course, group and caseload, and contacts outside with what they may receive. */
import { otherContacts } from '@/data/people/contact-details';
import { isStaffMember } from '@/core/staff/rights';
import type { Db } from '@/data/db';
import { staffInCrew, staffInCrews, type CrewBy, type StaffInCrew } from '@/data/people/crew';
import { findLearner, keepInScope } from '@/data/people/learners';
import type { Viewer } from '@/data/scope';
import { staffById, viewerOf } from '@/data/staff/staff';
import { NotFound } from '../request/input';
import { isoOrNull } from '../request/values';
import type { Runtime } from '../runtime';

/** Somebody around a learner, as a program gets them. */
export interface CrewMember {
  name: string;
  /** A member of staff's role, or what a contact is to the learner. */
  role: string;
  by: CrewBy;
  email: string | null;
  phone: string | null;
  /** May reports on the learner be sent to them? Null for staff, who see what they may. */
  may_receive: boolean | null;
  /** Since when they may, and in whose words that was said. */
  allowed_since: string | null;
  allowed_words: string | null;
  /** Courses in which staff are theirs. */
  courses: string[];
}

/** The crew of a learner in scope, staff first. @throws NotFound */
export async function crewOfLearner(runtime: Runtime, viewer: Viewer, learnerId: string): Promise<CrewMember[]> {
  const { db } = runtime;
  const id = await findLearner(db, viewer, learnerId);
  if (id === null) throw new NotFound('No such learner');
  const [staff, contacts] = await Promise.all([staffInCrew(db, viewer, id), otherContacts(db, viewer, id)]);
  return [
    ...staff.map(({ name, role, by, email, courses }) => ({
      name,
      role,
      by,
      email,
      phone: null,
      may_receive: null,
      allowed_since: null,
      allowed_words: null,
      courses,
    })),
    ...contacts.map(({ name, relation, email, phone, may_receive, allowed_at, allowed_words }) => ({
      name,
      role: relation,
      by: 'contact' as const,
      email,
      phone,
      may_receive: may_receive === 1,
      allowed_since: isoOrNull(allowed_at),
      allowed_words: allowed_words || null,
      courses: [],
    })),
  ];
}

/** Which of some learners some staff see now, by the staff's number: none for whoever has left or is a partner's contact. */
export async function whoSees(
  db: Db,
  staffIds: readonly number[],
  learnerIds: readonly number[],
): Promise<Map<number, Set<number>>> {
  const seeing = new Map<number, Set<number>>();
  for (const id of new Set(staffIds)) {
    const staff = await staffById(db, id);
    if (!staff || staff.ended_at !== null) continue;
    const viewer = await viewerOf(db, staff);
    if (isStaffMember(viewer)) seeing.set(id, new Set(await keepInScope(db, viewer, learnerIds)));
  }
  return seeing;
}

/** Staff of learners' crews, in the viewer's reading, who see the learner themselves; without the viewer. */
export async function crewsWhoSee(
  db: Db,
  viewer: Viewer,
  learnerIds: readonly number[],
): Promise<(StaffInCrew & { learner_id: number })[]> {
  const crews = (await staffInCrews(db, viewer, learnerIds)).filter(({ id }) => id !== viewer.staffId);
  const seeing = await whoSees(
    db,
    crews.map(({ id }) => id),
    learnerIds,
  );
  return crews.filter(({ id, learner_id }) => seeing.get(id)?.has(learner_id));
}
