/** All that is known of learners in a course, item by item. */
import type { Course, Extension, LearnerFacts } from '@/core/completion/course';
import type { Override, ItemDay, ItemFacts } from '@/core/completion/state';
import { attemptAsOf, withLoggedHandIn, type Attempt } from '@/core/work/attempt';
import { factsAsOf } from '@/core/completion/state';
import { prepared, type RawConnection } from '../db';
import { freeText, staffName, staffWords } from '../person';
import type { Viewer } from '../scope';
import { attendanceRateOf } from '../sessions/attendance-rate';

interface FactsOptions {
  /** Who is shown it: words and names of staff are hidden for them where they have names hidden. */
  viewer: Viewer;
  /** Facts as they were known at this instant, the last of its day. */
  asOf?: { at: number; day: number };
  /** Sessions that have ended by now count. */
  now: number;
}

type DayRow = [
  item: number,
  day: number,
  opens: number,
  events: number,
  ms: number,
  first: number | null,
  last: number | null,
  talked: number,
  submitted: number | null,
  otherLast: number | null,
];
type AttemptRow = [
  item: number,
  number: number,
  started: number | null,
  submitted: number | null,
  score: number | null,
  points: number | null,
  graded: number | null,
  feedback: number,
  dismissed: number | null,
];

const DAYS = `SELECT item_id, day, opens, events, ms, first, last, talked, submitted, other_last FROM item_day
  WHERE learner_id = ? ORDER BY item_id, day`;
const ATTEMPTS = `SELECT item_id, number, started_at, submitted_at, score, points, graded_at,
  feedback IS NOT NULL AND feedback <> '', dismissed_at FROM attempt WHERE learner_id = ? ORDER BY item_id, number`;
const EXTENSIONS = (
  viewer: Viewer,
) => `SELECT e.item_id, e.due_at, e.excused, ${staffWords(viewer, 'e.staff_id', 'e.reason')}, e.at, ${staffName(viewer)}
  FROM extension e LEFT JOIN staff ON staff.id = e.staff_id WHERE e.learner_id = ?`;
const MARKS = (
  viewer: Viewer,
) => `SELECT m.item_id, m.state, m.at, ${staffWords(viewer, 'm.staff_id', 'm.reason')}, ${staffName(viewer)}
  FROM completion_override m LEFT JOIN staff ON staff.id = m.staff_id WHERE m.learner_id = ?`;
const PROGRESS = 'SELECT item_id, at, share FROM watched WHERE learner_id = ? ORDER BY item_id, at';
/** Sessions that are items of the course and were attended, and when they came. */
const ATTENDED = `SELECT item_id, min(at) FROM session_outcome WHERE course_id = @courseId AND learner_id = @learnerId
    AND item_id IS NOT NULL AND ends_at <= @now AND credit > 0 GROUP BY item_id`;

/** Items of a course for which the feed tells how much of them was watched. */
function measuredItems(raw: RawConnection, courseId: number): Set<number> {
  return new Set(
    prepared(
      raw,
      'SELECT item.id FROM item WHERE course_id = ? AND EXISTS (SELECT 1 FROM watched WHERE item_id = item.id)',
    )
      .pluck()
      .all(courseId) as number[],
  );
}

/** One learner's facts of an item while they are gathered. */
interface Gathered {
  days: ItemDay[];
  attempts: Attempt[];
  progress: [number, number][] | null;
  attendedAt: number | null;
  override: Override | null;
  excusedAt: number | null;
}

/**
 * Opens a reader of learners' facts in a course: every statement is prepared once, and each learner is a few steps in an
 * index by learner.
 */
export function openFacts(raw: RawConnection, course: Course, { viewer, asOf, now }: FactsOptions) {
  const [dayRows, attemptRows] = [prepared(raw, DAYS).raw(), prepared(raw, ATTEMPTS).raw()];
  const [extensionRows, markRows] = [prepared(raw, EXTENSIONS(viewer)).raw(), prepared(raw, MARKS(viewer)).raw()];
  const progressRows = prepared(raw, PROGRESS).raw();
  const attendedRows = prepared(raw, ATTENDED).raw();
  const inCourse = new Set(course.items.map(({ id }) => id));
  const measured = measuredItems(raw, course.id);
  const hasSessions = course.items.some(({ rule }) => rule.some(({ on }) => on === 'attended'));
  // Most programmes have few of these: a look for each learner would find nothing.
  const some = (table: 'extension' | 'completion_override') =>
    prepared(raw, `SELECT EXISTS (SELECT 1 FROM ${table})`).pluck().get() === 1;
  const [hasExtensions, hasMarks] = [some('extension'), some('completion_override')];
  const isKnown = (at: number) => asOf === undefined || at <= asOf.at;
  return (learnerId: number): LearnerFacts => {
    const items = new Map<number, Gathered>();
    const gatheredOf = (itemId: number): Gathered => {
      let own = items.get(itemId);
      if (!own) {
        const progress = measured.has(itemId) ? [] : null;
        own = { days: [], attempts: [], progress, attendedAt: null, override: null, excusedAt: null };
        items.set(itemId, own);
      }
      return own;
    };
    const logged = new Map<number, number>();
    for (const row of dayRows.all(learnerId) as DayRow[]) {
      const [itemId, day, opens, events, ms, first, last, talked, submitted, otherLast] = row;
      if (!inCourse.has(itemId)) continue;
      gatheredOf(itemId).days.push({ day, opens, events, ms, first, last, talked, otherLast });
      if (submitted !== null && !logged.has(itemId) && isKnown(submitted)) logged.set(itemId, submitted);
    }
    for (const [itemId, number, started, submitted, score, points, graded, feedback, dismissed] of attemptRows.all(
      learnerId,
    ) as AttemptRow[]) {
      if (!inCourse.has(itemId)) continue;
      gatheredOf(itemId).attempts.push({
        number,
        started_at: started,
        submitted_at: submitted,
        score,
        points,
        graded_at: graded,
        has_feedback: feedback === 1,
        dismissed_at: dismissed,
      });
    }
    for (const { id, hasResults } of course.items) {
      const at = hasResults ? undefined : logged.get(id);
      if (at === undefined) continue;
      const own = gatheredOf(id);
      own.attempts = withLoggedHandIn(own.attempts, at);
    }
    const extensions = new Map<number, Extension>();
    for (const [itemId, dueAt, excused, reason, at, by] of (hasExtensions ? extensionRows.all(learnerId) : []) as [
      number,
      number | null,
      number,
      string,
      number,
      string | null,
    ][]) {
      if (!inCourse.has(itemId) || !isKnown(at)) continue;
      extensions.set(itemId, { dueAt, isExcused: excused === 1, reason, at, by });
      if (excused === 1) gatheredOf(itemId).excusedAt = at;
    }
    for (const [itemId, state, at, reason, by] of (hasMarks ? markRows.all(learnerId) : []) as [
      number,
      Override['state'],
      number,
      string,
      string | null,
    ][]) {
      if (inCourse.has(itemId)) gatheredOf(itemId).override = { state, at, reason, by };
    }
    for (const [itemId, at, share] of measured.size === 0
      ? []
      : (progressRows.all(learnerId) as [number, number, number][])) {
      if (inCourse.has(itemId)) gatheredOf(itemId).progress?.push([at, share]);
    }
    if (hasSessions) {
      const asked = { learnerId, courseId: course.id, now };
      for (const [itemId, at] of attendedRows.all(asked) as [number, number][]) {
        if (inCourse.has(itemId)) gatheredOf(itemId).attendedAt = at;
      }
    }
    // What nobody has begun is measurable all the same, where others' share watched is known.
    for (const itemId of measured) if (inCourse.has(itemId)) gatheredOf(itemId);
    const known: ReadonlyMap<number, ItemFacts> =
      asOf === undefined
        ? items
        : new Map([...items].map(([itemId, own]) => [itemId, factsAsOf(own, asOf.at, asOf.day)] as const));
    const until = asOf?.at ?? now;
    const attendanceRate =
      course.options.attendance === undefined ? null : attendanceRateOf(raw, learnerId, course.id, until);
    return { items: known, extensions, logged, attendanceRate };
  };
}

/** Attempts of a learner at an item, as they are stored. */
export interface ShownAttempt extends Attempt {
  grader: string | null;
  feedback: string | null;
  source: string;
  dismissed_why: string | null;
  other_score: number | null;
  other_points: number | null;
}

/** Every attempt of a learner at the items of a course, with grader and feedback, as known at an instant. */
export function attemptsShown(raw: RawConnection, viewer: Viewer, courseId: number, learnerId: number, at: number) {
  const rows = prepared(
    raw,
    `SELECT a.item_id, a.number, a.started_at, a.submitted_at, a.score, a.points, a.graded_at, ${freeText(viewer, 'a.feedback')} AS feedback, a.source,
       a.dismissed_at, ${staffWords(viewer, 'a.dismissed_by', 'a.dismissed_why')} AS dismissed_why, a.other_score, a.other_points,
       ifnull(${staffName(viewer)}, ${freeText(viewer, 'a.grader')}) AS grader,
       a.feedback IS NOT NULL AND a.feedback <> '' AS has_feedback
     FROM attempt a JOIN item ON item.id = a.item_id
       LEFT JOIN staff ON staff.id = a.staff_id OR (a.staff_id IS NULL AND staff.external_id = a.grader)
     WHERE a.learner_id = ? AND item.course_id = ? ORDER BY a.item_id, a.number`,
  ).all(learnerId, courseId) as (ShownAttempt & { item_id: number; has_feedback: unknown })[];
  const byItem = new Map<number, ShownAttempt[]>();
  for (const { item_id, ...row } of rows) {
    const known = attemptAsOf({ ...row, has_feedback: Number(row.has_feedback) === 1 }, at);
    if (!known) continue;
    const shown = { ...row, ...known, feedback: known.has_feedback ? row.feedback : null };
    byItem.set(item_id, [...(byItem.get(item_id) ?? []), shown]);
  }
  return byItem;
}
