/** The access log of the term: what each learner did, visit by visit. */
import { HOUR, MINUTE, startOfDay, weekday } from '@/core/time/zone';
import { drawTraits, dwell, presence, type Traits } from './behaviour';
import type { DemoCourse, DemoItem } from './courses';
import { STAFF, type DemoEnrolment, type DemoLearner } from './people';
import type { Random } from './random';

export interface LogRow {
  at: number;
  who: string;
  course: string;
  item: string;
  action: string;
  address: string;
  source: string;
}

/** Words by kind of item: first what opens it, then what is done on it. */
const ACTIONS: Record<string, readonly string[]> = {
  page: ['opened', 'viewed'],
  file: ['downloaded'],
  link: ['opened'],
  video: ['played', 'progressed', 'progressed', 'progressed'],
  quiz: ['opened', 'started', 'answered', 'answered', 'answered', 'submitted'],
  assignment: ['opened', 'saved', 'saved', 'submitted'],
  discussion: ['opened', 'posted', 'replied'],
};

/** Two days on which the north campus's platform wrote no log. */
export function outage(today: number): readonly [number, number] {
  return [today - 20, today - 19];
}

/** Most of a day on which the south campus's platform was silent, which nobody has settled yet. */
function silence(today: number, zone: string): readonly [number, number] {
  // A working day of last week.
  const day = [5, 6].includes(weekday(today - 6)) ? today - 8 : today - 6;
  return [startOfDay(day, zone) + 7 * HOUR, startOfDay(day, zone) + 22 * HOUR];
}

export function demoLog(
  random: Random,
  courses: readonly DemoCourse[],
  learners: readonly DemoLearner[],
  now: number,
  today: number,
  zone: string,
): LogRow[] {
  const rows = learners.flatMap((learner) => learnerLog(random, learner, now, today, zone));
  rows.push(...staffLog(random, courses, now, today, zone));
  const [from, to] = outage(today);
  const [gapFrom, gapTo] = [startOfDay(from, zone), startOfDay(to + 1, zone)];
  const [silentFrom, silentTo] = silence(today, zone);
  const isLost = ({ source, at }: LogRow) =>
    source === 'campus north' ? at >= gapFrom && at < gapTo : at >= silentFrom && at < silentTo;
  return rows.filter((row) => row.at <= now && !isLost(row)).sort((a, b) => a.at - b.at);
}

function learnerLog(random: Random, learner: DemoLearner, now: number, today: number, zone: string): LogRow[] {
  const rows: LogRow[] = [];
  learner.enrolments.forEach((enrolment, index) => {
    const { course } = enrolment;
    const traits = drawTraits(random, learner.behaviour, today - course.startDay);
    // Somebody who takes two courses gives the second less.
    if (index > 0) traits.diligence *= 0.7;
    const first = Math.max(course.startDay, enrolment.enrolledDay);
    const last = Math.min(today, (enrolment.endedDay ?? today + 1) - 1);
    const pending = new Pending(course);
    for (let day = first; day <= last; day += 1) {
      if (isResting(course, day) && !random.chance(0.08)) continue;
      if (!random.chance(presence(traits, day, day - course.startDay))) continue;
      const visits = random.chance(0.45) ? 2 : 1;
      for (let visit = 0; visit < visits; visit += 1) {
        rows.push(...oneVisit(random, learner, enrolment, traits, pending, day, visit, zone));
      }
    }
  });
  return rows;
}

function isResting({ rest }: DemoCourse, day: number): boolean {
  return rest !== null && day >= rest[0] && day <= rest[1];
}

/** What a learner has still to do, in the outline's order. */
class Pending {
  private next = 0;
  private readonly left: DemoItem[];

  constructor(course: DemoCourse) {
    this.left = course.items.filter(({ kind, stage }) => kind !== 'session' && stage === null);
  }

  /** The item to go on with on a day: the next that has opened, or one from before again. */
  choose(random: Random, day: number): DemoItem | null {
    const open = this.left.filter((item) => item.opensDay <= day);
    if (open.length === 0) return null;
    if (this.next < open.length && !random.chance(0.3)) {
      const item = open[this.next];
      this.next += 1;
      return item;
    }
    return open[Math.max(0, Math.min(open.length - 1, this.next - 1 - Math.floor(random.next() * random.next() * 14)))];
  }
}

function oneVisit(
  random: Random,
  learner: DemoLearner,
  { course }: DemoEnrolment,
  traits: Traits,
  pending: Pending,
  day: number,
  visit: number,
  zone: string,
): LogRow[] {
  const hour = traits.hour + (visit === 0 ? 0 : random.pick([-3, 2, 3]));
  let at = startOfDay(day, zone) + Math.max(5, hour) * HOUR + random.int(0, 59) * MINUTE + random.int(0, 59) * 1000;
  const rows: LogRow[] = [];
  const add = (item: string, action: string) => {
    rows.push({
      at,
      who: learner.id,
      course: course.code,
      item,
      action,
      address: learner.address,
      source: course.source,
    });
    at += dwell(random, traits) * 1000;
  };
  add('', 'signed_in');
  const items = random.int(3, traits.behaviour === 'click_through' ? 11 : 8);
  for (let i = 0; i < items; i += 1) {
    const item = pending.choose(random, day);
    if (!item) break;
    for (const action of ACTIONS[item.kind] ?? ['opened']) {
      if (action === 'progressed' && (!course.videoProgress || random.chance(0.25))) continue;
      if (['posted', 'replied', 'submitted'].includes(action) && random.chance(0.25)) continue;
      add(item.id, action);
      // Some press twice.
      if (action === 'opened' && random.chance(0.01)) rows.push({ ...rows[rows.length - 1] });
    }
  }
  // A word of this one platform's that nobody has said the meaning of yet.
  if (course.source === 'campus south' && items === 5 && rows.length > 1) add(rows[1].item, 'bookmarked');
  if (random.chance(0.3)) add('', 'signed_out');
  return rows;
}

/** Instructors look through their own courses on weekdays. */
function staffLog(random: Random, courses: readonly DemoCourse[], now: number, today: number, zone: string): LogRow[] {
  const rows: LogRow[] = [];
  for (const { id, role, scopes } of STAFF) {
    if (role !== 'instructor') continue;
    for (const [, code] of scopes) {
      const course = courses.find((one) => one.code === code)!;
      for (let day = course.startDay; day <= today; day += 1) {
        if (weekday(day) >= 5 || !random.chance(0.5)) continue;
        let at = startOfDay(day, zone) + 8 * HOUR + random.int(0, 90) * MINUTE;
        for (const item of course.items.filter(
          (one) => one.opensDay <= day && day < one.opensDay + 7 && one.kind !== 'session' && one.stage === null,
        )) {
          rows.push({
            at,
            who: id,
            course: code,
            item: item.id,
            action: item.kind === 'discussion' ? 'replied' : 'viewed',
            address: '198.51.100.23',
            source: course.source,
          });
          at += random.int(20, 200) * 1000;
        }
      }
    }
  }
  return rows;
}

export function logRows(rows: readonly LogRow[]): string[][] {
  const heading = ['time', 'learner_id', 'course', 'item_id', 'action', 'address', 'event_id'];
  return [
    heading,
    ...rows.map((row) => [
      new Date(row.at).toISOString().replace('.000Z', 'Z'),
      row.who,
      row.course,
      row.item,
      row.action,
      row.address,
      '',
    ]),
  ];
}
