/** People explained: the rows, panels and pages of learners, put together from bulk reads. */
import { sayWhole } from '@/core/drift/sentences';
import { groupBy } from '@/core/group-by';
import { CALL_OUTCOMES, hasReached } from '@/core/contact/call';
import { splitAnswer } from '@/core/contact/answer';
import { cameBack } from '@/core/contact/came-back';
import type { MessageState } from '@/core/contact/message-state';
import type { ContactShown, EnrolmentShown, Person, VisitShown } from '@/core/contact/person';
import { daysQuiet } from '@/core/access/last-access';
import type { WakeData } from '@/core/access/wake';
import { mergeRanges, isWithin } from '@/core/drift/counted-days';
import { wholePoints } from '@/core/drift/score';
import { reasonTitle, sayNotCounted, sayUntold } from '@/core/drift/model';
import { readOtherwise } from '@/core/drift/setting';
import { NO_READING_WORDS } from '@/core/drift/no-reading';
import { dayOf, startOfDay, weekday } from '@/core/time/zone';
import { sayDaysAgo } from '@/core/time/words';
import { dueDates } from '@/data/courses/due-items';
import { sayGroup } from '@/data/courses/segments';
import { sayPlatform } from '@/core/completion/platform-says';
import { countUpTo, storedProgress, type StoredProgress } from '@/data/completion/stored-progress';
import { courseFeedGaps } from '@/data/feed/feed-gaps';
import { enrolmentsOf, type EnrolmentRow } from '@/data/people/enrolments';
import { learnersById } from '@/data/people/learners';
import { endOfView, type DriftView } from '@/data/view';
import { contactsOf, type ContactRow } from '@/data/contact/contacts';
import { fullName } from '@/core/people/name';
import { daysOfLearners, visitsOfLearners, type VisitRow } from '@/data/access/visits';
import type { Runtime } from '../runtime';
import { recordedSessions } from '../sessions/records';

export interface Detail {
  wakeDays: number;
  visits: number;
  contacts: number;
  status: 'active' | 'all';
}

/** Everything shown of some learners of a view, in the order of `ids`; whoever is not in view is left out. */
export async function explainPeople(
  runtime: Runtime,
  view: DriftView,
  ids: readonly number[],
  detail: Detail,
): Promise<Person[]> {
  const { db, clock, zone } = runtime;
  const { now } = view;
  const end = endOfView(view);
  const today = dayOf(now, zone);
  const firstDay = today - detail.wakeDays + 1;
  const { viewer, segment } = view;
  const [learners, enrolments, visits, contacts, days, sessions, stored] = await Promise.all([
    learnersById(db, view, ids),
    enrolmentsOf(db, view, ids, detail.status),
    detail.visits === 0 ? [] : visitsOfLearners(db, viewer, segment, ids, { each: detail.visits, to: end }),
    contactsOf(db, viewer, ids, { each: detail.contacts, until: end }),
    daysOfLearners(db, viewer, segment, ids, firstDay, today),
    recordedSessions(runtime, viewer, ids, {
      from: startOfDay(firstDay, zone),
      to: Math.min(end, now) + 1,
      now,
      courseId: segment.courseId,
    }),
    // What is kept is of now; a past day's would have to be worked out from every fact.
    view.asOf === null ? storedProgress(db, view, 'all', ids) : new Map<number, StoredProgress>(),
  ]);
  const courseIds = [...new Set(enrolments.map((row) => row.course_id))];
  const [due, gaps] = await Promise.all([
    dueDates(db, courseIds, startOfDay(firstDay, zone), startOfDay(today + 1, zone) - 1),
    courseFeedGaps(db, courseIds),
  ]);
  const byId = new Map(learners.map((row) => [row.id, row]));
  const enrolmentsBy = byLearner(enrolments);
  const visitsBy = byLearner(visits);
  const contactsBy = byLearner(contacts);
  const daysBy = byLearner(days);
  const gapDays = new Map(
    courseIds.map((id) => [
      id,
      mergeRanges(
        gaps.filter((gap) => gap.course_id === id).map((gap) => [dayOf(gap.from_at, zone), dayOf(gap.to_at - 1, zone)]),
      ),
    ]),
  );
  return ids.flatMap((id) => {
    const row = byId.get(id);
    if (!row) return [];
    const theirEnrolments = enrolmentsBy.get(id) ?? [];
    const wake: WakeData = {
      firstDay,
      firstWeekday: weekday(firstDay),
      minutes: Array<number>(detail.wakeDays).fill(0),
      active: [],
      due: [],
      gaps: [],
      sessions: (sessions.get(id) ?? []).flatMap(({ day, outcome }): WakeData['sessions'] =>
        outcome === null ? [] : [[day - firstDay, outcome]],
      ),
    };
    for (const day of daysBy.get(id) ?? []) {
      wake.minutes[day.day - firstDay] = Math.round(day.ms / 60_000);
      if (day.events > 0) wake.active.push(day.day - firstDay);
    }
    const courses = new Set(theirEnrolments.filter((e) => e.status === 'active').map((e) => e.course_id));
    wake.due = [...new Set(due.filter((d) => courses.has(d.course_id)).map((d) => dayOf(d.due_at, zone) - firstDay))];
    for (let i = 0; i < detail.wakeDays; i += 1) {
      if ([...courses].some((course) => isWithin(firstDay + i, gapDays.get(course) ?? []))) wake.gaps.push(i);
    }
    return [
      {
        id,
        learnerId: row.learner_id,
        name: fullName(row),
        toldApart: row.provisional === 1 ? 'provisional' : null,
        isProvisional: row.provisional === 1,
        email: row.email,
        phone: row.phone,
        organisation: row.organisation,
        lastAccess: row.last_at,
        daysQuiet: daysQuiet(row.last_at, now, zone),
        ms: row.ms,
        score: row.score,
        band: row.band,
        enrolments: theirEnrolments.map((enrolment) => ({
          ...showEnrolment(enrolment, stored.get(enrolment.id), now, zone),
          readOtherwise: readOtherwise(view.settings, enrolment.course_id, view.readingDay, dayOf(clock.now(), zone)),
        })),
        visits: (visitsBy.get(id) ?? []).map(showVisit),
        contacts: (contactsBy.get(id) ?? []).map((contact) => showContact(contact, view, zone)),
        wake,
      },
    ];
  });
}

function byLearner<T extends { learner_id: number }>(rows: readonly T[]): Map<number, T[]> {
  return groupBy(rows, (row) => row.learner_id);
}

function showEnrolment(
  row: EnrolmentRow,
  kept: StoredProgress | undefined,
  now: number,
  zone: string,
): Omit<EnrolmentShown, 'readOtherwise'> {
  const { reasons, notCounted, untold = [], without, stoodOn = null } = row.explanation;
  const progress = kept && kept.required > 0 ? kept.done / kept.required : null;
  const points = wholePoints(reasons.map((reason) => reason.points));
  return {
    id: row.id,
    courseId: row.course_id,
    course: row.course,
    title: row.course_title,
    group: row.group === null ? null : sayGroup(row.group),
    status: row.status,
    enrolledDay: row.enrolled_day,
    endedDay: row.ended_day,
    lastAccess: row.last_at,
    daysQuiet: daysQuiet(row.last_at, now, zone),
    ms: row.ms,
    score: row.score,
    band: row.band,
    change: row.score === null || row.week_ago === null ? null : Math.round(row.score) - Math.round(row.week_ago),
    overdue: kept && row.status === 'active' ? countUpTo(kept.openDues, now - 1) : null,
    progress,
    platform: sayPlatform(row.platform, { progress, ms: row.ms }, zone, now),
    onGraded: kept?.onGraded ?? null,
    reasons: reasons.map((reason, index) => ({
      factor: reason.factor,
      title: reasonTitle(reason.factor),
      says: reason.says,
      whole: sayWhole(reason.says),
      points: points[index],
    })),
    judged: { by: reasons.length, of: reasons.length + notCounted.length },
    notCounted: notCounted.map((name) => (untold.includes(name) ? sayUntold(name) : sayNotCounted(name))),
    stoodOn,
    without: without === undefined ? null : NO_READING_WORDS[without],
  };
}

function showVisit({ start, first, last, ms, events, courses }: VisitRow): VisitShown {
  return { start, first, last, ms, events, courses };
}

const STATE_WORDS: Record<MessageState, string> = {
  queued: 'waiting to be sent',
  sending: 'being sent',
  sent: '',
  unsure: 'perhaps not arrived',
  failed: 'not sent',
  bounced: 'could not be delivered',
};
const CONTACT_VERBS = { email: 'wrote', sms: 'texted', call: 'called' } as const;

/** Letters of an answer that stand on its writer's line. */
const ANSWER_SHOWN = 60;

/** The first words of an answer, "I want to stop the course"; null where it has none. */
function firstWords(answer: string | null): string | null {
  const words = splitAnswer(answer ?? '').own.replace(/\s+/g, ' ');
  if (words.length <= ANSWER_SHOWN) return words || null;
  return `${words.slice(0, words.lastIndexOf(' ', ANSWER_SHOWN) + 1 || ANSWER_SHOWN).trimEnd()} …`;
}

/** A contact in words, as its reader sees it. */
export function showContact(row: ContactRow, view: DriftView, zone: string): ContactShown {
  const { now, viewer } = view;
  const reachedNobody =
    row.state === 'failed' || row.state === 'bounced' || (row.outcome !== null && !hasReached(row.outcome));
  const seen = reachedNobody
    ? null
    : cameBack({ contactAt: row.at, lastBefore: row.last_before, firstAfter: row.first_after }, zone);
  // As of a past day, what came later had not come yet.
  const back = seen !== null && seen <= endOfView(view) ? seen : null;
  const answered = row.answered_at !== null && row.answered_at <= endOfView(view) ? row.answered_at : null;
  const mine = row.by_id === viewer.staffId;
  const parts = [
    `${mine ? 'You' : row.by} ${row.outcome === 'met' ? 'met them' : CONTACT_VERBS[row.kind]} ${row.to === '' ? '' : `to ${row.to} `}${sayDaysAgo(row.at, now, zone)}`,
    row.state ? STATE_WORDS[row.state] : '',
    row.outcome && row.outcome !== 'met' ? CALL_OUTCOMES[row.outcome].says : '',
    answered !== null ? 'answered' : '',
    back !== null ? 'came back' : '',
  ];
  return {
    id: row.id,
    kind: row.kind,
    at: row.at,
    state: row.state,
    outcome: row.outcome,
    subject: row.subject,
    body: row.body,
    by: row.by,
    mine,
    cameBack: back,
    answeredAt: answered,
    answer: answered === null ? null : firstWords(row.answer),
    says: parts.filter(Boolean).join(' · '),
  };
}

/** Marks those who share a name with somebody else of the list, by id and organisation. */
export function tellApart(people: Person[]): Person[] {
  const counts = new Map<string, number>();
  for (const person of people) counts.set(person.name, (counts.get(person.name) ?? 0) + 1);
  return people.map((person) =>
    (counts.get(person.name) ?? 0) > 1
      ? { ...person, toldApart: [person.learnerId, person.organisation, person.toldApart].filter(Boolean).join(' · ') }
      : person,
  );
}
