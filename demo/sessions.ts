/** The term's live sessions: when they were, who came for how long, and the rolls that were taken. */
import { suggestMark } from '@/core/sessions/suggest';
import { presenceOf } from '@/core/sessions/presence';
import { timesOn } from '@/core/sessions/timetable';
import { HOUR, MINUTE, dayOf } from '@/core/time/zone';
import type { Behaviour } from './behaviour';
import type { DemoCourse } from './courses';
import type { LogRow } from './log';
import type { DemoLearner } from './people';
import type { Random } from './random';

interface DemoSession {
  id: string;
  course: string;
  group: string;
  title: string;
  starts: number;
  ends: number;
  online: boolean;
  place: string;
  cancelled: boolean;
  item: string;
}

/** One stay of one device. */
interface Stay {
  person: string;
  email: string;
  entered: number;
  left: number | null;
}

/** Somebody whom the meeting's stand-in plays, with their stays as minutes after the start. */
export interface MeetingPerson {
  person: string;
  email: string;
  stays: [from: number, to: number][];
}

export interface DemoSessions {
  sessions: DemoSession[];
  presence: { session: string; stay: Stay }[];
  marks: { session: string; learner: string; mark: string; remark: string }[];
  /** The session that is on now, for the meeting's stand-in. */
  meeting: { session: string; title: string; starts: number; ends: number; people: MeetingPerson[] };
}

/** Weekday (0 = Monday) and time of each group's session, by the course's order and the group's. */
const TIMES: readonly (readonly [weekday: number, minute: number])[][] = [
  [
    [1, 18 * 60 + 30],
    [3, 18 * 60 + 30],
  ],
  [
    [2, 18 * 60 + 30],
    [0, 19 * 60],
  ],
  [
    [1, 19 * 60],
    [3, 19 * 60],
  ],
  [
    [0, 18 * 60],
    [2, 18 * 60],
  ],
  [
    [3, 18 * 60],
    [4, 12 * 60],
  ],
  [
    [2, 19 * 60 + 15],
    [4, 17 * 60],
  ],
];
const LENGTH = 75;
/** Every fourth week is a workshop day on the Saturday. */
const WORKSHOP = { every: 4, weekday: 5, minute: 9 * 60 + 30, length: 240 };
/** The group whose session is on now. */
const LIVE = { course: 'HAT', group: 'A' };
/** How long it has been on, in minutes. */
const LIVE_SINCE = 32;

/** How likely somebody who has been there of late comes to a session. */
const COMES: Record<Behaviour, number> = {
  steady: 0.93,
  weekend_only: 0.55,
  night_shift: 0.6,
  front_loader: 0.8,
  slow_fader: 0.8,
  sudden_stop: 0.85,
  late_starter: 0.8,
  never_started: 0,
  stop_and_return: 0.8,
  session_only: 0.97,
  click_through: 0.5,
};

const DEVICES = [' (phone)', ' – tablet', ' [laptop]'];

/** A name as somebody typed it into the meeting. */
function shownName(random: Random, { givenName, familyName }: DemoLearner): string {
  const name = random.chance(0.12) ? `${givenName} ${familyName[0]}` : `${givenName} ${familyName}`;
  return random.chance(0.1) ? `${name}${random.pick(DEVICES)}` : name;
}

/** When somebody who comes is there, as minutes after the start; the last is open-ended where it has no end. */
function stays(random: Random, length: number): [number, number][] {
  const kind = random.next();
  const end = length - random.int(0, 2);
  if (kind < 0.66) return [[random.int(-6, 3), end]];
  if (kind < 0.78) return [[random.int(12, 24), end]];
  if (kind < 0.86) return [[random.int(-3, 4), random.int(20, Math.floor(length * 0.6))]];
  if (kind < 0.9) return [[random.int(0, 6), random.int(7, 10)]];
  const cut = random.int(15, 45);
  return [
    [random.int(-4, 2), cut],
    [cut + random.int(1, 6), end],
  ];
}

/** Drops out and comes back eleven times. */
function eleven(length: number): [number, number][] {
  const step = length / 12;
  return Array.from({ length: 12 }, (_, i): [number, number] => [i * step, (i + 1) * step - (i < 11 ? 1.5 : 0)]);
}

function sessionOf(course: DemoCourse, place: number, group: string, week: number, zone: string): DemoSession {
  const isWorkshop = week % WORKSHOP.every === WORKSHOP.every - 1;
  const [weekday, minute] = isWorkshop
    ? [WORKSHOP.weekday, WORKSHOP.minute]
    : TIMES[place][course.groups.indexOf(group)];
  const times = timesOn(course.startDay + week * 7 + weekday, minute, isWorkshop ? WORKSHOP.length : LENGTH, zone);
  const number = String(week + 1).padStart(2, '0');
  return {
    id: `${course.code}-${group}-${number}`,
    course: course.code,
    group,
    title: isWorkshop ? `Week ${week + 1} workshop` : `Week ${week + 1} live`,
    starts: times.starts_at,
    ends: times.ends_at,
    online: !isWorkshop,
    place: isWorkshop
      ? 'Saltholm yard, shed 4'
      : `https://meet.saltholm.example/${course.code.toLowerCase()}-${group.toLowerCase()}`,
    cancelled: course.code === 'CPR' && week === 6,
    item: `${course.code}-${number}-S`,
  };
}

/** Every session of the term, the one that is on now among them. */
function timetable(courses: readonly DemoCourse[], now: number, zone: string): DemoSession[] {
  const begun = Math.floor(now / (5 * MINUTE)) * 5 * MINUTE - LIVE_SINCE * MINUTE;
  return courses.flatMap((course, place) =>
    course.groups.flatMap((group) =>
      Array.from({ length: course.weeks }, (_, week) => sessionOf(course, place, group, week, zone))
        .filter(({ starts }) => course.rest === null || !within(dayOf(starts, zone), course.rest))
        .map((session) => {
          const monday = dayOf(now, zone) - ((dayOf(now, zone) + 3) % 7);
          const isThisWeek = dayOf(session.starts, zone) >= monday && dayOf(session.starts, zone) < monday + 7;
          if (course.code !== LIVE.course || group !== LIVE.group || !isThisWeek) return session;
          return { ...session, starts: begun, ends: begun + LENGTH * MINUTE };
        }),
    ),
  );
}

function within(day: number, [from, to]: readonly [number, number]): boolean {
  return day >= from && day <= to;
}

/** Who is in a group on a day. */
function inGroup(learners: readonly DemoLearner[], session: DemoSession, day: number): DemoLearner[] {
  return learners.filter(({ enrolments }) =>
    enrolments.some(
      ({ course, group, enrolledDay, endedDay }) =>
        course.code === session.course &&
        group === session.group &&
        enrolledDay <= day &&
        (endedDay === null || endedDay > day),
    ),
  );
}

/** Days on which each learner did anything in each course. */
function activeDays(log: readonly LogRow[], zone: string): Map<string, Set<number>> {
  const days = new Map<string, Set<number>>();
  for (const { who, course, at } of log) {
    const key = `${who}/${course}`;
    const own = days.get(key) ?? new Set<number>();
    days.set(key, own.add(dayOf(at, zone)));
  }
  return days;
}

export function demoSessions(
  random: Random,
  courses: readonly DemoCourse[],
  learners: readonly DemoLearner[],
  log: readonly LogRow[],
  now: number,
  zone: string,
): DemoSessions {
  const active = activeDays(log, zone);
  const startOf = new Map(courses.map(({ code, startDay }) => [code, startDay]));
  const result: DemoSessions = {
    sessions: timetable(courses, now, zone),
    presence: [],
    marks: [],
    meeting: { session: '', title: '', starts: 0, ends: 0, people: [] },
  };
  // Two of last week's nobody has taken the roll of yet; of one there is the meeting's record.
  const past = result.sessions.filter(({ ends }) => ends <= now).sort((a, b) => b.ends - a.ends);
  const withoutRoll = new Set([
    past.find(({ course, online }) => course === 'SBE' && online)?.id,
    past.find(({ course }) => course === 'NET')?.id,
  ]);
  for (const session of result.sessions) {
    const day = dayOf(session.starts, zone);
    const members = inGroup(learners, session, day);
    const length = (session.ends - session.starts) / MINUTE;
    const isLive =
      session.starts <= now && session.ends > now && session.course === LIVE.course && session.group === LIVE.group;
    const comes = (learner: DemoLearner) => {
      const days = active.get(`${learner.id}/${session.course}`);
      const isAbout =
        learner.behaviour === 'session_only' ||
        // In the first days there is nothing to look back on.
        (day - startOf.get(session.course)! < 9 && !['never_started', 'late_starter'].includes(learner.behaviour)) ||
        Array.from({ length: 9 }, (_, back) => day - back).some((one) => days?.has(one));
      return random.chance(isAbout ? COMES[learner.behaviour] : 0.04);
    };
    if (isLive) {
      const people = members.filter(comes).map((learner, index): MeetingPerson => ({
        person: shownName(random, learner),
        email: random.chance(0.75) ? learner.email : '',
        stays: index === 0 ? eleven(length) : index === 1 ? [[1, 5]] : stays(random, length),
      }));
      const two = people[2];
      if (two) people.push({ ...two, person: `${two.person.split(' (')[0]} (phone)`, stays: [[10, 40]] });
      people.push({ person: 'Front desk', email: '', stays: [[0, 12]] });
      result.meeting = {
        session: session.id,
        title: session.title,
        starts: session.starts,
        ends: session.ends,
        people,
      };
      continue;
    }
    if (session.ends > now || session.cancelled) continue;
    const reconnects = session.course === 'HAT' && session.title.includes('3');
    const hasRecord = session.online && !(session.course === 'NET' && withoutRoll.has(session.id));
    for (const [index, learner] of members.entries()) {
      const isThere = comes(learner);
      const own = isThere ? (reconnects && index === 0 ? eleven(length) : stays(random, length)) : [];
      const intervals = own.map(([from, to]) => ({
        entered: session.starts + Math.round(from * MINUTE),
        left: session.starts + Math.round(to * MINUTE),
      }));
      if (hasRecord) {
        const person = shownName(random, learner);
        const email = random.chance(0.8) ? learner.email : '';
        for (const stay of intervals) result.presence.push({ session: session.id, stay: { person, email, ...stay } });
      }
      if (withoutRoll.has(session.id)) continue;
      const time = { start: session.starts, end: session.ends };
      const seen = intervals.length === 0 ? null : presenceOf(intervals, time);
      const mark = !isThere && random.chance(0.12) ? 'excused' : suggestMark(seen, time, zone).mark;
      const remark = mark === 'excused' ? random.pick(['at sea', 'night shift', 'wrote before']) : '';
      result.marks.push({ session: session.id, learner: learner.id, mark, remark });
    }
    if (hasRecord && random.chance(0.25)) {
      const stay = { person: 'Front desk', email: '', entered: session.starts, left: session.starts + HOUR / 3 };
      result.presence.push({ session: session.id, stay });
    }
  }
  return result;
}

const iso = (at: number | null) => (at === null ? '' : new Date(at).toISOString().replace('.000Z', 'Z'));

export function sessionRows({
  sessions,
}: {
  sessions: readonly Pick<
    DemoSessions['sessions'][number],
    'course' | 'group' | 'id' | 'title' | 'starts' | 'ends' | 'online' | 'place' | 'cancelled' | 'item'
  >[];
}): string[][] {
  const heading = 'course,group,session_id,title,starts_at,ends_at,mode,place,cancelled,item_id';
  const rows = sessions.map(({ course, group, id, title, starts, ends, online, place, cancelled, item }) => [
    course,
    group,
    id,
    title,
    iso(starts),
    iso(ends),
    online ? 'online' : 'in_person',
    place,
    cancelled ? 'yes' : 'no',
    item,
  ]);
  return [heading.split(','), ...rows];
}

export function presenceFileRows({ presence }: DemoSessions): string[][] {
  const rows = presence.map(({ session, stay }) => [
    session,
    stay.person,
    stay.email,
    iso(stay.entered),
    iso(stay.left),
  ]);
  return [['session_id', 'person', 'email', 'entered', 'left'], ...rows];
}

export function markRows({ marks }: Pick<DemoSessions, 'marks'>): string[][] {
  return [
    ['session_id', 'learner_id', 'mark', 'remark'],
    ...marks.map((one) => [one.session, one.learner, one.mark, one.remark]),
  ];
}
