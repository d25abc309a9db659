/** Who is in view in a course, and what is known of them there. */
import { setImmediate as breathe } from 'node:timers/promises';
import type { Course, Extension, LearnerFacts } from '@/core/completion/course';
import type { Override, ItemFacts } from '@/core/completion/state';
import { groupBy } from '@/core/group-by';
import { attemptAsOf, withLoggedHandIn, type Attempt } from '@/core/work/attempt';
import { isWork } from '@/core/work/due';
import { prepared, withRaw, type Db, type RawConnection } from '../db';
import { personColumns } from '../person';
import { attendanceRatesOf } from '../sessions/attendance-rate';
import type { RowOf } from '../tables';
import { endedThen, idList, seenEnrolments, statusThen, type View } from '../view';
import { readCourse } from './course';
import { openFacts } from './facts';

/** An enrolment in view, with whose it is. */
export interface Enrolled {
  enrolmentId: number;
  id: number;
  learner_id: string;
  given_name: string;
  family_name: string;
  course_id: number;
  course: string;
  group_id: number | null;
  group: string | null;
  enrolled_day: number;
  ended_day: number | null;
  status: RowOf<'enrolment'>['status'];
}

/** Enrolments in view by the learner's name, then by course. */
export async function enrolledInView(
  db: Db,
  view: View,
  status: 'active' | 'all' = 'active',
  learnerIds?: readonly number[],
): Promise<Enrolled[]> {
  const { id, given, family, sort } = personColumns(view.viewer);
  return seenEnrolments(db, view, status)
    .join('learner', 'learner.id', 'enrolment.learner_id')
    .join('course', 'course.id', 'enrolment.course_id')
    .leftJoin('course_group as g', 'g.id', 'enrolment.group_id')
    .modify((query) => {
      if (learnerIds) query.whereIn('enrolment.learner_id', idList(db, learnerIds));
    })
    .orderByRaw(`${sort}, learner.id, course.code`)
    .select(
      'enrolment.id as enrolmentId',
      'learner.id',
      db.raw(`${id} AS learner_id`),
      db.raw(`${given} AS given_name`),
      db.raw(`${family} AS family_name`),
      'enrolment.course_id',
      'course.code as course',
      'enrolment.group_id',
      'g.name as group',
      'enrolment.enrolled_day',
      db.raw(`${endedThen(view)} AS ended_day`),
      db.raw(`${statusThen(view)} AS status`),
    );
}

/** One enrolment with its course and all that is known of it. */
export interface Known {
  enrolled: Enrolled;
  course: Course;
  facts: LearnerFacts;
}

/** Enrolments read at a time, after which the server sees to others. */
const AT_ONCE = 50;

/** What is known of some enrolments in view, in their order, as of the view's day. */
export async function factsOfEnrolled(db: Db, view: View, enrolled: readonly Enrolled[]): Promise<Known[]> {
  const { viewer, now } = view;
  const asOf = view.asOf === null ? undefined : { at: view.now, day: view.asOf };
  const known: Known[] = [];
  for (let start = 0; start < enrolled.length; start += AT_ONCE) {
    await withRaw(db, (raw) => {
      const courses = new Map<number, { course: Course; factsOf: ReturnType<typeof openFacts> }>();
      for (const one of enrolled.slice(start, start + AT_ONCE)) {
        let own = courses.get(one.course_id);
        if (!own) {
          const course = readCourse(raw, one.course_id);
          courses.set(one.course_id, (own = { course, factsOf: openFacts(raw, course, { viewer, asOf, now }) }));
        }
        known.push({ enrolled: one, course: own.course, facts: own.factsOf(one.id) });
      }
    });
    if (start + AT_ONCE < enrolled.length) await breathe();
  }
  return known;
}

/** A course's work in bulk: attempts, extensions and who is exempt, of everybody asked for, by the learner. */
export interface CourseWork {
  course: Course;
  of: (learnerId: number) => LearnerFacts;
}

type WorkRow = [
  item: number,
  learner: number,
  number: number,
  started: number | null,
  submitted: number | null,
  score: number | null,
  points: number | null,
  graded: number | null,
  feedback: number,
  dismissed: number | null,
];

const NO_ITEMS: ReadonlyMap<number, ItemFacts> = new Map();

/** Up to so many learners are looked up one by one; beyond, a course is walked item by item. */
const ONE_BY_ONE = 200;

const ATTEMPT = `SELECT item_id, learner_id, number, started_at, submitted_at, score, points, graded_at,
  feedback IS NOT NULL, dismissed_at FROM attempt`;

/**
 * Reads the work of a course at once, for figures that need no days of the log.
 *
 * @param learnerIds whose; everybody's when left out
 */
export function readCourseWork(
  raw: RawConnection,
  courseId: number,
  { asOf, now }: Pick<View, 'asOf' | 'now'>,
  learnerIds?: readonly number[],
): CourseWork {
  const course = readCourse(raw, courseId);
  const isPast = asOf !== null;
  const items = new Map<number, Map<number, Gathered>>();
  const gathered = (learnerId: number, itemId: number): Gathered => {
    let own = items.get(learnerId);
    if (!own) items.set(learnerId, (own = new Map()));
    let facts = own.get(itemId);
    if (!facts) {
      facts = { days: [], attempts: [], progress: null, attendedAt: null, override: null, excusedAt: null };
      own.set(itemId, facts);
    }
    return facts;
  };
  const take = (row: WorkRow) => {
    const one: Attempt = {
      number: row[2],
      started_at: row[3],
      submitted_at: row[4],
      score: row[5],
      points: row[6],
      graded_at: row[7],
      has_feedback: row[8] === 1,
      dismissed_at: row[9],
    };
    const known = isPast ? attemptAsOf(one, now) : one;
    if (known) gathered(row[1], row[0]).attempts.push(known);
  };
  if (learnerIds && learnerIds.length <= ONE_BY_ONE) {
    const inCourse = new Set(course.items.map(({ id }) => id));
    const ofLearner = prepared(raw, `${ATTEMPT} WHERE learner_id = ?`).raw();
    for (const id of learnerIds) for (const row of ofLearner.all(id) as WorkRow[]) if (inCourse.has(row[0])) take(row);
  } else {
    const ofItem = prepared(raw, `${ATTEMPT} WHERE item_id = ?`).raw();
    for (const item of course.items) for (const row of ofItem.all(item.id) as WorkRow[]) take(row);
  }
  const byLog = openLogged(raw, course);
  const extensions = new Map<number, Map<number, Extension>>();
  const given = prepared(
    raw,
    `SELECT e.item_id, e.learner_id, e.due_at, e.excused, e.at FROM extension e JOIN item ON item.id = e.item_id WHERE item.course_id = ?`,
  ).raw();
  for (const [itemId, learnerId, dueAt, excused, at] of given.all(courseId) as [
    number,
    number,
    number | null,
    number,
    number,
  ][]) {
    if (isPast && at > now) continue;
    let own = extensions.get(learnerId);
    if (!own) extensions.set(learnerId, (own = new Map()));
    own.set(itemId, { dueAt, isExcused: excused === 1, reason: '', at, by: null });
    if (excused === 1) gathered(learnerId, itemId).excusedAt = at;
  }
  const overrides = prepared(
    raw,
    `SELECT m.item_id, m.learner_id, m.state, m.at FROM completion_override m JOIN item ON item.id = m.item_id WHERE item.course_id = ?`,
  ).raw();
  for (const [itemId, learnerId, state, at] of overrides.all(courseId) as [
    number,
    number,
    Override['state'],
    number,
  ][]) {
    if (!isPast || at <= now) gathered(learnerId, itemId).override = { state, at, by: null, reason: '' };
  }
  const none: ReadonlyMap<number, Extension> = new Map();
  const rates = course.options.attendance === undefined ? null : attendanceRatesOf(raw, courseId, now);
  return {
    course,
    of: (learnerId) => {
      const logged = byLog(learnerId);
      for (const [itemId, at] of logged)
        if (!isPast || at <= now) {
          const own = gathered(learnerId, itemId);
          own.attempts = withLoggedHandIn(own.attempts, at);
        }
      return {
        items: items.get(learnerId) ?? NO_ITEMS,
        extensions: extensions.get(learnerId) ?? none,
        logged,
        attendanceRate: rates?.get(learnerId) ?? null,
      };
    },
  };
}

const NOTHING_LOGGED: ReadonlyMap<number, number> = new Map();

/** Opens a reader of the log's hand-ins of a learner, for the work of which results tell nothing. */
function openLogged(raw: RawConnection, course: Course): (learnerId: number) => ReadonlyMap<number, number> {
  const untold = course.items.filter(({ hasResults, kind, points }) => !hasResults && isWork(kind, points));
  if (untold.length === 0) return () => NOTHING_LOGGED;
  const items = JSON.stringify(untold.map(({ id }) => id));
  const submitted = prepared(
    raw,
    `SELECT item_id, min(submitted) FROM item_day WHERE learner_id = ? AND submitted IS NOT NULL
       AND item_id IN (SELECT value FROM json_each(?)) GROUP BY item_id`,
  ).raw();
  return (learnerId) => new Map(submitted.all(learnerId, items) as [number, number][]);
}

type Gathered = {
  -readonly [K in keyof ItemFacts]: ItemFacts[K] extends readonly Attempt[] ? Attempt[] : ItemFacts[K];
};

/** Goes through the courses of some enrolments, with the work of each in bulk, so that others are answered between. */
export async function* workByCourse(
  db: Db,
  view: View,
  enrolled: readonly Enrolled[],
): AsyncGenerator<{ work: CourseWork; enrolled: Enrolled[] }> {
  for (const [courseId, own] of groupBy(enrolled, ({ course_id }) => course_id)) {
    const ids = own.map(({ id }) => id);
    yield { work: await withRaw(db, (raw) => readCourseWork(raw, courseId, view, ids)), enrolled: own };
    await breathe();
  }
}
