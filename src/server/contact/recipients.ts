/** To whom a draft goes: of each learner those who were chosen, each with what the fields of the text stand for. */
import { daysQuiet } from '@/core/access/last-access';
import { RECEIVER_WORDS, type Receiver, type Recipient } from '@/core/contact/recipient';
import { fill } from '@/core/contact/template';
import { groupBy } from '@/core/group-by';
import { isStaffMember } from '@/core/staff/rights';
import { fullName } from '@/core/people/name';
import { missedInARow, nameMissed, nameSession } from '@/core/sessions/record';
import { sayDay } from '@/core/time/words';
import { DAY, dayOf } from '@/core/time/zone';
import { contactedSince } from '@/data/contact/contacts';
import { draftRecipients, sentencesOf, type DraftRow } from '@/data/contact/drafts';
import { othersWhoMayReceive, othersWrittenToSince, receiverKey, type OtherReceiver } from '@/data/contact/receivers';
import { wishesOf } from '@/data/contact/wishes';
import { nextDue } from '@/data/courses/due-items';
import { sayGroup } from '@/data/courses/segments';
import type { Db } from '@/data/db';
import { contactDetailsOf } from '@/data/people/contact-details';
import { enrolmentsOf } from '@/data/people/enrolments';
import { learnersById } from '@/data/people/learners';
import type { Viewer } from '@/data/scope';
import { nextSessions } from '@/data/sessions/attendance';
import { staffById } from '@/data/staff/staff';
import type { DriftView } from '@/data/view';
import { lastPraise } from '../good-news/good-news-list';
import type { Runtime } from '../runtime';
import { crewsWhoSee } from '../people/crew';
import { recordedSessions } from '../sessions/records';
import { overdueLists } from '../work/work-due-list';

/** Whoever was contacted within so long is named before they are written to again, in ms. */
const RECENT_CONTACT = 5 * DAY;

/** How far back sessions are looked for that somebody has missed. */
const TERM = 200 * DAY;

/** What the fields of a message stand for, of each learner. */
async function learnersWrittenTo(
  runtime: Runtime,
  db: Db,
  view: DriftView,
  ids: readonly number[],
  isPraise: boolean,
): Promise<Recipient[]> {
  const { clock, zone } = runtime;
  const now = clock.now();
  const today = dayOf(now, zone);
  const whole: DriftView = { ...view, segment: {}, asOf: null, now };
  const [learners, enrolments, contacted, reach, sender, praise, wishes] = await Promise.all([
    learnersById(db, whole, ids),
    enrolmentsOf(db, whole, ids, 'active'),
    contactedSince(db, ids, now - RECENT_CONTACT),
    contactDetailsOf(db, ids),
    staffById(db, view.viewer.staffId),
    isPraise ? lastPraise({ ...runtime, db }, whole, ids) : null,
    wishesOf(db, ids),
  ]);
  const coursesOf = [...new Set(enrolments.map((enrolment) => enrolment.course_id))];
  const [next, records, overdue] = await Promise.all([
    nextSessions(db, coursesOf, now),
    recordedSessions({ db, zone }, view.viewer, ids, { from: now - TERM, to: now, now }),
    overdueLists({ db, zone }, whole, ids),
  ]);
  const due = await nextDue(db, coursesOf, now);
  const byId = new Map(learners.map((row) => [row.id, row]));
  // The course that needs a word is the one with the highest drift; it comes first.
  const courses = new Map([...enrolments].reverse().map((enrolment) => [enrolment.learner_id, enrolment]));
  return ids.flatMap((id) => {
    const row = byId.get(id);
    if (!row) return [];
    const course = courses.get(id);
    const quiet = daysQuiet(row.last_at, now, zone);
    const dueNext = course && due.get(course.course_id);
    const session = course && soonest(next, course);
    const inCourse = (records.get(id) ?? []).filter((one) => one.course_id === course?.course_id);
    return [
      {
        key: String(id),
        id,
        learnerId: row.learner_id,
        name: fullName(row),
        receiver: 'learner' as const,
        to: fullName(row),
        sentence: null,
        email: row.email,
        phone: row.phone,
        preferred: reach.get(id)?.preferred_channel ?? null,
        wishes: wishes.get(id) ?? [],
        timezone: reach.get(id)?.timezone ?? null,
        facts: {
          given_name: row.given_name,
          name: fullName(row),
          receiver: row.given_name || fullName(row),
          course: course?.course_title ?? null,
          group: course?.group ? sayGroup(course.group) : null,
          days_quiet: quiet === null ? null : String(quiet),
          last_access: row.last_at === null ? null : sayDay(dayOf(row.last_at, zone), today),
          next_due: dueNext ? `${dueNext.title} (${sayDay(dayOf(dueNext.due_at, zone), today)})` : null,
          next_session: session ? nameSession(session, zone, now) : null,
          overdue_list: overdue.get(id) ?? null,
          missed_sessions: nameMissed(missedInARow(inCourse), zone, now),
          good_news: praise?.get(id) ?? null,
          my_name: view.viewer.standInKey === null ? sender && fullName(sender) : view.viewer.name,
        },
        contacted: contacted.get(id) ?? null,
      },
    ];
  });
}

/** Somebody beside a learner, with the learner's facts. */
function besideLearner(learner: Recipient, other: OtherReceiver, contacted: number | null): Recipient {
  return {
    ...learner,
    key: receiverKey(other),
    receiver: other.receiver,
    to: `${other.name} (${other.receiver === 'organisation' ? RECEIVER_WORDS.organisation : other.relation})`,
    email: other.email,
    phone: other.phone,
    preferred: null,
    // What a learner wishes is about what the learner is written.
    wishes: [],
    // Staff are where the programme is, wherever the learner may be.
    timezone: other.receiver === 'crew' ? null : learner.timezone,
    facts: { ...learner.facts, receiver: other.name },
    contacted,
  };
}

/** Of one learner's, everybody once, however many of them share an address. */
function eachAddressOnce(recipients: readonly Recipient[]): Recipient[] {
  const seen = new Set<string>();
  return recipients.filter(({ email }) => {
    const address = email?.toLowerCase();
    if (address === undefined) return true;
    return !seen.has(address) && Boolean(seen.add(address));
  });
}

/**
 * Everybody beside some learners who may be written to: contacts and a partner's coordinators who may receive it, and, where no
 * page of a report goes with it (staff read those here), the staff around them who see them.
 */
async function everybodyBeside(
  db: Db,
  viewer: Viewer,
  ids: readonly number[],
  hasPage: boolean,
): Promise<OtherReceiver[]> {
  const crew = hasPage || !isStaffMember(viewer) ? [] : await crewsWhoSee(db, viewer, ids);
  return [
    ...crew.map(({ learner_id, id, role, name, email }) => ({
      learner_id,
      receiver: 'crew' as const,
      relation: role,
      name,
      email,
      phone: null,
      contact_id: null,
      coordinator_id: id,
    })),
    ...(await othersWhoMayReceive(db, viewer, ids)),
  ];
}

export interface Addressed {
  /** Everybody to whom the draft goes. */
  recipients: Recipient[];
  /** Of how many learners each sort of receiver there is somebody. */
  possible: Partial<Record<Receiver, number>>;
  /** Whom each is, beside a learner. */
  others: Map<string, OtherReceiver>;
}

/** Everybody to whom a draft goes: of each learner those who were chosen, without whoever was left out. */
export async function recipientsOf(runtime: Runtime, db: Db, view: DriftView, draft: DraftRow): Promise<Addressed> {
  const ids = await draftRecipients(db, view.viewer, draft.id);
  const since = runtime.clock.now() - RECENT_CONTACT;
  const [learners, others, written, sentences] = await Promise.all([
    learnersWrittenTo(runtime, db, view, ids, draft.is_praise === 1),
    everybodyBeside(db, view.viewer, ids, draft.report !== null),
    othersWrittenToSince(db, ids, since),
    sentencesOf(db, draft.id),
  ]);
  const beside = groupBy(others, ({ learner_id }) => learner_id);
  const possible: Addressed['possible'] = { learner: learners.length };
  for (const some of beside.values())
    for (const receiver of new Set(some.map((one) => one.receiver))) possible[receiver] = (possible[receiver] ?? 0) + 1;
  const leftOut = new Set(draft.left_out);
  const recipients = learners.flatMap((learner) => {
    const own = { ...learner, sentence: sentences.get(learner.id) ?? null };
    const all = [
      own,
      ...(beside.get(learner.id) ?? []).map((other) =>
        besideLearner(own, other, written.get(receiverKey(other)) ?? null),
      ),
    ];
    return eachAddressOnce(all.filter(({ receiver }) => draft.receivers.includes(receiver))).filter(
      ({ key }) => !leftOut.has(key),
    );
  });
  return { recipients, possible, others: new Map(others.map((other) => [receiverKey(other), other])) };
}

/** The next session of somebody's own group, or of all of the course's. */
function soonest<T extends { course_id: number; group_id: number | null; starts_at: number }>(
  sessions: readonly T[],
  { course_id, group_id }: { course_id: number; group_id: number | null },
): T | undefined {
  return sessions
    .filter(
      (session) => session.course_id === course_id && (session.group_id === null || session.group_id === group_id),
    )
    .sort((a, b) => a.starts_at - b.starts_at)[0];
}

/** What stands on a recipient's page: what was written for that learner, else what is said to all. */
export function sentenceFor(recipient: Recipient, toAll: string): { text: string; missing: string[] } {
  return fill(recipient.sentence ?? toAll, recipient.facts);
}
