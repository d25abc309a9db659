/** Does it work: what came of contacts by channel, template, writer or week, with those beside who stood alike and were left alone. */
import { IsIn, IsOptional } from 'class-validator';
import { setImmediate as breathe } from 'node:timers/promises';
import {
  ANSWER_WITHIN,
  LEFT_ALONE,
  Signs,
  howContactsWent,
  openLike,
  type JudgedContact,
  type PersonOnDay,
  type Worked,
} from '@/core/contact/does-it-work';
import { groupBy } from '@/core/group-by';
import { WORKS_LIMITS } from '@/core/contact/works-words';
import { DAY, dateOfDay, dayOf, startOfDay, weekday } from '@/core/time/zone';
import {
  contactsMade,
  crossingsOf,
  eachDayThere,
  eachReading,
  enrolmentsInTime,
  otherSigns,
  type EnrolledTime,
  type MadeContact,
} from '@/data/contact/does-it-work';
import { isOfSome, type Viewer } from '@/data/scope';
import type { DriftView } from '@/data/view';
import { AsDay, InvalidInput, readInput, type Values } from '../request/input';
import { Filter, type List } from '../request/list';
import { pageInOrder } from '../request/list-query';
import { SegmentQuery } from '../request/segment-query';
import { openDriftView } from '../request/view';
import type { Runtime } from '../runtime';

export const WORKS_BY = ['channel', 'template', 'writer', 'week'] as const;
type WorksBy = (typeof WORKS_BY)[number];

class WorksQuery extends SegmentQuery {
  @Filter({ help: `${WORKS_BY.join(', ')}; by channel where it is left out` })
  @IsOptional()
  @IsIn(WORKS_BY, { message: `is not one of ${WORKS_BY.join(', ')}` })
  by?: WorksBy;

  @Filter({ help: 'contacts from a date on', says: (from) => `From ${from.slice(0, 10)}` })
  @IsOptional()
  @AsDay()
  from?: number;

  @Filter({ help: 'contacts up to a date, included', says: (to) => `To ${to.slice(0, 10)}` })
  @IsOptional()
  @AsDay()
  to?: number;
}

/** A contact with what came of it, and whose it is. */
interface Judged extends MadeContact, Omit<JudgedContact, 'of'> {
  day: number;
}

const NO_TEMPLATE = 'no template';

const UNDER: Record<WorksBy, (contact: Judged) => string> = {
  channel: ({ kind }) => kind,
  template: ({ template }) => template ?? NO_TEMPLATE,
  writer: ({ writer }) => writer,
  week: ({ day }) => dateOfDay(day - weekday(day)),
};

/** Where everybody was there, by learner; and the days on which each was in a course, by learner and course. */
interface Presences {
  signs: ReadonlyMap<number, Signs>;
  days: ReadonlyMap<string, number[]>;
}

const inCourse = (learner: number, course: number) => `${learner}/${course}`;

async function readPresences({ db }: Runtime, view: DriftView, from: number, to: number): Promise<Presences> {
  const stretches = new Map<number, [number, number][]>();
  const days = new Map<string, number[]>();
  const add = (learner: number, first: number, last: number) => {
    const own = stretches.get(learner);
    if (own) own.push([first, last]);
    else stretches.set(learner, [[first, last]]);
  };
  await eachDayThere(db, view.viewer, (learner, course, day, first, last) => {
    add(learner, first, last);
    const key = inCourse(learner, course);
    const own = days.get(key);
    if (own) own.push(day);
    else days.set(key, [day]);
  });
  for (const { learnerId, at } of await otherSigns(db, view.viewer, { from: from - 30 * DAY, to: to + 8 * DAY }))
    add(learnerId, at, at);
  const signs = new Map<number, Signs>();
  for (const [learner, own] of stretches) {
    own.sort((a, b) => a[0] - b[0]);
    signs.set(
      learner,
      new Signs(
        own.map(([first]) => first),
        own.map(([, last]) => last),
      ),
    );
  }
  for (const own of days.values()) own.sort((a, b) => a - b);
  return { signs, days };
}

/** Whole days from the last of some days before another one to it; null where there is none. */
function quietOn(days: readonly number[] | undefined, day: number): number | null {
  if (!days) return null;
  let [low, high] = [0, days.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (days[middle] < day) low = middle + 1;
    else high = middle;
  }
  return low === 0 ? null : day - days[low - 1];
}

const NOBODY = new Signs([], []);

/**
 * Judges every contact of a period with learners in view. A contact is compared in each course in view that its learner was in on
 * that day; its like are those of all of them together, each once.
 */
export async function judgedContacts(
  runtime: Runtime,
  view: DriftView,
  { from, to }: { from?: number; to?: number },
): Promise<Judged[]> {
  const { db, zone } = runtime;
  const { viewer, now } = view;
  const [first, end] = [
    from === undefined ? 0 : startOfDay(from, zone),
    startOfDay((to ?? dayOf(now, zone)) + 1, zone),
  ];
  const enrolments = await enrolmentsInTime(db, view);
  const byLearner = groupBy(enrolments, ({ learnerId }) => learnerId);
  const around = LEFT_ALONE * DAY;
  // Whoever contacted them: a little after the period nobody was left alone in it, and a first contact may lie long before it.
  const all = await contactsMade(db, { ...viewer, role: 'lead' }, { from: 0, to: end + around + DAY });
  const contactDays = new Map<number, number[]>();
  for (const { learnerId, at } of all) {
    const day = dayOf(at, zone);
    const own = contactDays.get(learnerId);
    if (own) own.push(day);
    else contactDays.set(learnerId, [day]);
  }
  const isOn = (one: EnrolledTime, day: number) =>
    one.enrolledDay <= day && (one.endedDay === null || one.endedDay >= day);
  const own = (await contactsMade(db, viewer, { from: first, to: end })).filter(
    ({ learnerId, at }) => at <= now && byLearner.get(learnerId)?.some((one) => isOn(one, dayOf(at, zone))),
  );
  if (own.length === 0) return [];
  const { signs, days } = await readPresences(runtime, view, own[0].at, own.at(-1)!.at);
  await breathe();
  const contacted = own.map((contact) => ({ ...contact, day: dayOf(contact.at, zone) }));
  // The like are of the whole course as far as the viewer sees it, whichever part of it is looked at.
  const pool = isOfSome(view.segment) ? await enrolmentsInTime(db, { ...view, segment: {} }) : enrolments;
  const like = await likeOf(runtime, pool, contacted, { byLearner, days, contactDays, isOn });
  const sinceCrossing = await crossingDays(runtime, byLearner, contacted, contactDays);
  const back = (learner: number, at: number) => (signs.get(learner) ?? NOBODY).cameBack(at, zone);
  const judged: Judged[] = [];
  for (const [index, contact] of contacted.entries()) {
    if (index % 500 === 499) await breathe();
    const alike = like[index];
    const returned = back(contact.learnerId, contact.at);
    const isAnswered = contact.answeredAt !== null && contact.answeredAt - contact.at <= ANSWER_WITHIN * DAY;
    const hasReturned = returned !== null && returned <= now;
    judged.push({
      ...contact,
      learner: contact.learnerId,
      answered: isAnswered,
      returned: hasReturned,
      unanswered: !isAnswered && !hasReturned && now - contact.at > ANSWER_WITHIN * DAY,
      likeRate:
        alike.length === 0 ? null : alike.filter((learner) => back(learner, contact.at) !== null).length / alike.length,
      daysSinceCrossing: sinceCrossing[index],
    });
  }
  return judged;
}

interface LikeRead {
  /** The enrolments in which contacts are compared. */
  byLearner: ReadonlyMap<number, readonly EnrolledTime[]>;
  days: Presences['days'];
  /** Days on which each learner was contacted, by anybody. */
  contactDays: ReadonlyMap<number, readonly number[]>;
  isOn: (one: EnrolledTime, day: number) => boolean;
}

/** The like of each contact: learners, each once. */
async function likeOf(
  { db }: Runtime,
  pool: readonly EnrolledTime[],
  contacts: readonly (MadeContact & { day: number })[],
  { byLearner, days, contactDays, isOn }: LikeRead,
): Promise<number[][]> {
  const byId = new Map(pool.map((one) => [one.id, one]));
  const standings = new Map<string, PersonOnDay[]>();
  await eachReading(db, [...new Set(contacts.map(({ day }) => day))], (day, enrolment, drift) => {
    const one = byId.get(enrolment);
    if (!one || !isOn(one, day)) return;
    const key = `${day}/${one.courseId}`;
    const standing = {
      learner: one.learnerId,
      drift,
      quiet: quietOn(days.get(inCourse(one.learnerId, one.courseId)), day),
    };
    const own = standings.get(key);
    if (own) own.push(standing);
    else standings.set(key, [standing]);
  });
  const found: number[][] = contacts.map(() => []);
  const places = groupBy(
    contacts.map(({ day, learnerId }, index) => ({ day, learnerId, index })),
    ({ day }) => day,
  );
  for (const [day, own] of places) {
    await breathe();
    const opened = new Map<number, ReturnType<typeof openLike>>();
    const where = new Map<number, Map<number, PersonOnDay>>();
    for (const { learnerId, index } of own) {
      const alike = new Set<number>();
      for (const { courseId } of byLearner.get(learnerId) ?? []) {
        if (!opened.has(courseId)) {
          const all = standings.get(`${day}/${courseId}`) ?? [];
          const alone = all.filter(
            ({ learner }) => !contactDays.get(learner)?.some((on) => Math.abs(on - day) <= LEFT_ALONE),
          );
          opened.set(courseId, openLike(alone));
          where.set(courseId, new Map(all.map((one) => [one.learner, one])));
        }
        const standing = where.get(courseId)!.get(learnerId);
        if (standing) for (const learner of opened.get(courseId)!(standing)) alike.add(learner);
      }
      found[index] = [...alike];
    }
  }
  return found;
}

/**
 * Days from crossing the first edge to each contact that was the first one since; null for any other.
 *
 * @param contactDays the days of all contacts there ever were, by learner, in their order
 */
async function crossingDays(
  { db }: Runtime,
  byLearner: ReadonlyMap<number, readonly EnrolledTime[]>,
  contacts: readonly (MadeContact & { day: number })[],
  contactDays: ReadonlyMap<number, readonly number[]>,
): Promise<(number | null)[]> {
  const contactsOf = groupBy(
    contacts.map(({ learnerId, day }, index) => ({ learnerId, day, index })),
    ({ learnerId }) => learnerId,
  );
  const enrolments = [...contactsOf.keys()].flatMap((learner) => byLearner.get(learner) ?? []);
  const found: (number | null)[] = contacts.map(() => null);
  const learnerOf = new Map(enrolments.map(({ id, learnerId }) => [id, learnerId]));
  const crossings = groupBy(
    await crossingsOf(
      db,
      enrolments.map(({ id }) => id),
    ),
    ({ enrolmentId }) => enrolmentId,
  );
  for (const [enrolment, own] of crossings)
    own.forEach(({ day }, index) => {
      const next = own[index + 1]?.day ?? Infinity;
      const learner = learnerOf.get(enrolment)!;
      const first = contactDays.get(learner)?.find((on) => on >= day && on < next);
      const after = contactsOf.get(learner)?.find((one) => one.day === first);
      if (!after) return;
      // Of two courses crossed before one contact, it came the sooner after the later.
      const passed = after.day - day;
      found[after.index] = Math.min(found[after.index] ?? Infinity, passed);
    });
  return found;
}

/** Contacts nobody answered, the newest. */
const UNANSWERED_SHOWN = 50;

/** @throws InvalidInput, NotFound */
export async function doesItWork(runtime: Runtime, viewer: Viewer, values: Values) {
  const query = readInput(WorksQuery, values, runtime.zone);
  const { course, group, organisation, caseload, by = 'channel', from, to } = query;
  if (from !== undefined && to !== undefined && from > to)
    throw new InvalidInput([{ field: 'to', message: 'lies before from' }]);
  const view = await openDriftView(runtime, viewer, { course, group, organisation, caseload });
  const judged = await judgedContacts(runtime, view, { from, to });
  const under = UNDER[by];
  const rows = howContactsWent(judged.map((one) => ({ ...one, of: under(one) })));
  rows.sort((a, b) => (by === 'week' ? (a.of < b.of ? -1 : 1) : b.contacts - a.contacts || (a.of < b.of ? -1 : 1)));
  const [all] = howContactsWent(judged.map((one) => ({ ...one, of: '' })));
  const unanswered = judged.filter((one) => one.unanswered).reverse();
  const page = pageInOrder(rows, query, ({ of }) => of);
  return {
    query,
    view,
    ...page,
    all: all ?? null,
    unanswered: unanswered.slice(0, UNANSWERED_SHOWN),
    total: rows.length,
    now: view.now,
    zone: runtime.zone,
  };
}

const round = (value: number | null) => (value === null ? null : Math.round(value * 1e5) / 1e5);

export const DOES_IT_WORK = {
  name: 'does-it-work',
  path: '/follow-ups/does-it-work',
  query: WorksQuery,
  columns: {
    of: { title: 'Of', isKey: true, figures: { of: (row) => row.of } },
    contacts: { title: 'Contacts', figures: { contacts: (row) => row.contacts } },
    answered: {
      title: 'Answered',
      figures: { answered: (row) => row.answered, unanswered: (row) => row.unanswered },
    },
    returned: { title: 'Came back', figures: { returned: (row) => row.returned } },
    rate: {
      title: 'Rate',
      figures: {
        rate: (row) => round(row.rate),
        low: (row) => round(row.interval.low),
        high: (row) => round(row.interval.high),
      },
    },
    like: {
      title: 'The like',
      figures: { like: (row) => ({ contacts: row.like.contacts, rate: round(row.like.rate) }) },
    },
    difference: {
      title: 'Difference',
      figures: {
        difference: ({ difference: { value, low, high } }) => ({
          value: round(value),
          low: round(low),
          high: round(high),
        }),
        without_like: (row) => row.withoutLike,
      },
    },
    days: { title: 'Days to contact', figures: { days_to_contact: (row) => row.daysToContact } },
  },
  beside: async () => ({ says: WORKS_LIMITS }),
  read: doesItWork,
} satisfies List<Worked>;
