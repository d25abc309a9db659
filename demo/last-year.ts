/**
 * Last year's two cohorts, which have ended: who finished and who left. People here are not made of what drift looks at: each
 * has a strength that comes and goes with their life, and everything they do follows from it, a little late.
 */
import { DAY, HOUR, MINUTE, dateOfDay, startOfDay } from '@/core/time/zone';
import type { DemoCourse, DemoItem } from './courses';
import type { LogRow } from './log';
import { drawName } from './people';
import type { Random } from './random';
import type { markRows, sessionRows } from './sessions';

const PEOPLE_A_COURSE = 150;

interface Person {
  id: string;
  names: [given: string, family: string];
  organisation: string;
  group: string;
  address: string;
  enrolledDay: number;
  /** What they are like: visits in a good week, the hour and days at which they come, and the rest as shares. */
  visits: number;
  hour: number;
  days: readonly number[];
  care: number;
  talks: number;
  skill: number;
  tardy: number;
  /** Their strength in each week, 0–1; below 0 once they have left. */
  strength: number[];
  /** The day they left; null for whoever finished. */
  leftDay: number | null;
  /** The day on which that was settled. */
  settledDay: number | null;
}

interface Result {
  learner: string;
  item: DemoItem;
  submitted: number;
  score: number;
}

export interface LastYear {
  courses: readonly DemoCourse[];
  people: readonly { course: DemoCourse; own: Person[] }[];
  log: LogRow[];
  results: Result[];
  sessions: Parameters<typeof sessionRows>[0]['sessions'][number][];
  marks: Parameters<typeof markRows>[0]['marks'][number][];
}

/** When people come: most in the evening, some in the day, at weekends or at night. */
const RHYTHMS: readonly (readonly [share: number, hour: number, days: readonly number[]])[] = [
  [0.4, 19, [0, 1, 2, 3, 4]],
  [0.25, 12, [0, 1, 2, 3, 4]],
  [0.2, 10, [5, 6]],
  [0.15, 23, [0, 1, 2, 3, 4, 5, 6]],
];

function drawRhythm(random: Random): { hour: number; days: readonly number[] } {
  let left = random.next();
  for (const [share, hour, days] of RHYTHMS) {
    left -= share;
    if (left <= 0) return { hour, days };
  }
  return { hour: RHYTHMS[0][1], days: RHYTHMS[0][2] };
}

const between = (random: Random, low: number, high: number) => low + (high - low) * random.next();

/**
 * A strength that wanders, with blows: some are got over, some are not, and whoever is weak for long leaves. A few leave out of
 * the blue, for another job or a move.
 */
function liveOn(random: Random, weeks: number): { strength: number[]; leftWeek: number | null } {
  let now = between(random, 0.6, 1);
  let mends = 0.06;
  const strength: number[] = [];
  for (let week = 0; week < weeks; week += 1) {
    if (random.chance(0.08)) {
      now -= between(random, 0.2, 0.5);
      mends = random.chance(0.5) ? 0.12 : -0.08;
    }
    now = Math.min(1, Math.max(0.03, now + mends * between(random, 0.3, 1.3) + between(random, -0.08, 0.06)));
    strength.push(now);
    const leaves = now < 0.2 ? 0.4 : 0.004;
    if (week > 1 && week < weeks - 1 && random.chance(leaves)) return { strength, leftWeek: week };
  }
  return { strength, leftWeek: null };
}

function drawPerson(random: Random, course: DemoCourse, index: number): Person {
  const neverCame = random.chance(0.03);
  const { strength, leftWeek } = neverCame ? { strength: [], leftWeek: 0 } : liveOn(random, course.weeks);
  const leftDay = leftWeek === null ? null : course.startDay + leftWeek * 7 + random.int(0, 6);
  const lastDay = course.startDay + course.weeks * 7 - 1;
  return {
    id: `Y${course.code}${String(index + 1).padStart(3, '0')}`,
    names: drawName(random),
    organisation: random.chance(0.6) ? random.pick(['Isle Paths Partnership', 'Penhallow Boatyards']) : '',
    group: random.pick(course.groups),
    address: `203.0.113.${random.int(1, 254)}`,
    enrolledDay: course.startDay - random.int(0, 9),
    visits: between(random, 1.5, 5),
    ...drawRhythm(random),
    care: between(random, 0.7, 1),
    talks: between(random, 0, 0.9),
    skill: between(random, 0.45, 0.95),
    tardy: between(random, 0, 0.5),
    strength,
    leftDay,
    settledDay: leftDay === null ? null : Math.min(lastDay, leftDay + random.int(4, 40)),
  };
}

/** Times of a week's visits: on the days they come, as often as their strength allows. */
function visitsOf(random: Random, person: Person, weekStart: number, strength: number, zone: string): number[] {
  const count = Math.round(person.visits * strength * between(random, 0.5, 1.5));
  return Array.from({ length: count }, () => {
    const day = weekStart + (random.chance(0.85) ? random.pick(person.days) : random.int(0, 6));
    return startOfDay(day, zone) + person.hour * HOUR + random.int(-90, 90) * MINUTE;
  }).sort((a, b) => a - b);
}

const WORDS: Record<string, readonly string[]> = {
  page: ['opened'],
  file: ['downloaded'],
  video: ['played', 'progressed'],
  quiz: ['opened', 'answered'],
  assignment: ['opened', 'saved'],
  discussion: ['opened'],
  session: [],
};

function goThrough(random: Random, person: Person, course: DemoCourse, zone: string, into: LastYear): void {
  const { id, address } = person;
  const row = (at: number, item: DemoItem, action: string) =>
    into.log.push({ at, who: id, course: course.code, item: item.id, action, address, source: course.source });
  const isGone = (at: number) => person.leftDay !== null && at >= startOfDay(person.leftDay, zone);
  person.strength.forEach((strength, week) => {
    const weekStart = course.startDay + 7 * week;
    const open = course.items.filter((item) => item.week <= week && item.week >= week - 1 && item.kind !== 'session');
    for (const visit of visitsOf(random, person, weekStart, strength, zone)) {
      let at = visit;
      for (let step = random.int(1, 3); step > 0; step -= 1) {
        const item = random.pick(open);
        for (const word of WORDS[item.kind]) {
          at += random.int(1, 9) * MINUTE;
          if (!isGone(at)) row(at, item, word);
        }
        if (item.kind === 'discussion' && random.chance(person.talks * strength) && !isGone(at))
          row(at, item, 'posted');
      }
    }
    for (const item of open.filter((one) => one.week === week && one.dueDay !== null && one.points !== null)) {
      if (!random.chance(person.care * (0.25 + 0.75 * strength))) continue;
      const isLate = random.chance(person.tardy * (1.3 - strength));
      const day = isLate ? item.dueDay! + random.int(1, 5) : item.dueDay! - random.int(0, 3);
      const submitted = startOfDay(day, zone) + person.hour * HOUR + random.int(-60, 50) * MINUTE;
      if (isGone(submitted)) continue;
      row(submitted, item, 'submitted');
      const share = Math.min(1, Math.max(0.1, person.skill * (0.75 + 0.25 * strength) + between(random, -0.12, 0.12)));
      into.results.push({ learner: id, item, submitted, score: Math.round(share * item.points!) });
    }
  });
}

/** A live session a week for each group, and who came to it. */
function meet(random: Random, course: DemoCourse, own: readonly Person[], zone: string, into: LastYear): void {
  for (const item of course.items.filter(({ kind }) => kind === 'session')) {
    for (const group of course.groups) {
      const id = `${item.id}-${group}`;
      const day = item.opensDay + (group === 'Tue' ? 1 : 3);
      const starts = startOfDay(day, zone) + 18 * HOUR;
      into.sessions.push({
        id,
        course: course.code,
        group,
        title: item.title,
        starts,
        ends: starts + HOUR,
        item: item.id,
        online: true,
        place: '',
        cancelled: false,
      });
      for (const person of own.filter((one) => one.group === group && (one.leftDay === null || one.leftDay > day))) {
        const strength = person.strength[item.week] ?? 0;
        const came = random.chance(0.2 + 0.75 * strength);
        const mark = came ? 'present' : random.chance(0.1) ? 'excused' : 'absent';
        into.marks.push({ session: id, learner: person.id, mark, remark: '' });
      }
    }
  }
}

/** About 300 learners in the courses given, who lived through them and finished or left. */
export function demoLastYear(random: Random, courses: readonly DemoCourse[], zone: string): LastYear {
  const people = courses.map((course) => ({
    course,
    own: Array.from({ length: PEOPLE_A_COURSE }, (_, index) => drawPerson(random, course, index)),
  }));
  const year: LastYear = { courses, people, log: [], results: [], sessions: [], marks: [] };
  for (const { course, own } of people) {
    for (const person of own) goThrough(random, person, course, zone, year);
    meet(random, course, own, zone, year);
  }
  year.log.sort((a, b) => a.at - b.at);
  return year;
}

export function lastRosterRows({ people }: LastYear): string[][] {
  const heading = 'learner_id,given_name,family_name,email,organisation,course,group,enrolled_on,status,ended_on';
  const rows = people.flatMap(({ course, own }) =>
    own.map((one) => [
      one.id,
      ...one.names,
      `${one.id.toLowerCase()}@learner.example`,
      one.organisation,
      course.code,
      one.group,
      dateOfDay(one.enrolledDay),
      one.settledDay === null ? 'completed' : 'withdrawn',
      dateOfDay(one.settledDay ?? course.startDay + course.weeks * 7 + 3),
    ]),
  );
  return [heading.split(','), ...rows];
}

const iso = (at: number) => new Date(at).toISOString();

export function lastResultRows({ results }: LastYear): string[][] {
  const heading = 'learner_id,course,item_id,submitted_at,score,points,graded_at';
  const rows = results.map(({ learner, item, submitted, score }) => [
    learner,
    item.id.slice(0, item.id.indexOf('-')),
    item.id,
    iso(submitted),
    String(score),
    String(item.points),
    iso(submitted + 2 * DAY),
  ]);
  return [heading.split(','), ...rows];
}
