/** What good news is made of, of the enrolments in view over all of their time. */
import { dayOf } from '@/core/time/zone';
import type { Db } from '../db';
import { endOfView, idList, seenEnrolments, type DriftView } from '../view';
import { FALL } from '@/core/good-news/good-news';

/** An enrolment in view that there may be something to say of. */
export interface NewsEnrolment {
  enrolmentId: number;
  learnerId: number;
  courseId: number;
}

function seen(db: Db, view: DriftView, learnerIds?: readonly number[]) {
  return seenEnrolments(db, view, 'all').modify((query) => {
    if (learnerIds !== undefined) query.whereIn('enrolment.learner_id', idList(db, learnerIds));
  });
}

interface Finished extends NewsEnrolment {
  completedAt: number | null;
  units: [unitId: number, at: number][];
}

/** Courses and units of which all that is required is done, with when. */
export async function finished(db: Db, view: DriftView, learnerIds?: readonly number[]): Promise<Finished[]> {
  type Row = NewsEnrolment & { completedAt: number | null; units: string };
  const rows: Row[] = await seen(db, view, learnerIds)
    .join('enrolment_progress as s', 's.enrolment_id', 'enrolment.id')
    .where((any) => any.whereNotNull('s.completed_at').orWhereNot('s.units_done', '[]'))
    .select(
      'enrolment.id as enrolmentId',
      'enrolment.learner_id as learnerId',
      'enrolment.course_id as courseId',
      's.completed_at as completedAt',
      's.units_done as units',
    );
  return rows.map((row) => ({ ...row, units: JSON.parse(row.units) }));
}

/** Days with an event in the course, ascending, of enrolments with at least so many days between their first and last. */
export async function eventDays(
  db: Db,
  view: DriftView,
  learnerIds?: readonly number[],
): Promise<(NewsEnrolment & { days: number[] })[]> {
  type Row = NewsEnrolment & { days: string };
  const rows: Row[] = await seen(db, view, learnerIds)
    .join('learner_day as d', (on) =>
      on.on('d.learner_id', 'enrolment.learner_id').andOn('d.course_id', 'enrolment.course_id'),
    )
    .where('d.events', '>', 0)
    .groupBy('enrolment.id')
    // Whoever was never seven days without an event never came back from that.
    .havingRaw('max(d.day) - min(d.day) + 1 - count(*) >= 7')
    .select(
      'enrolment.id as enrolmentId',
      'enrolment.learner_id as learnerId',
      'enrolment.course_id as courseId',
      db.raw('json_group_array(d.day) AS days'),
    );
  return rows.map((row) => ({ ...row, days: (JSON.parse(row.days) as number[]).sort((a, b) => a - b) }));
}

/** Readings so far under those of 14 days before, by enrolment and day. */
export async function fallenReadings(
  db: Db,
  view: DriftView,
  learnerIds?: readonly number[],
): Promise<(NewsEnrolment & { day: number; score: number; before: number })[]> {
  return seen(db, view, learnerIds)
    .join('drift_reading as r', 'r.enrolment_id', 'enrolment.id')
    .join('drift_reading as o', (on) =>
      on.on('o.enrolment_id', 'r.enrolment_id').andOn('o.day', db.raw('r.day - ?', [FALL.days])),
    )
    .where('r.day', '<=', view.readingDay)
    .whereRaw('o.score - r.score >= ?', [FALL.by])
    .orderBy(['enrolment.id', 'r.day'])
    .select(
      'enrolment.id as enrolmentId',
      'enrolment.learner_id as learnerId',
      'enrolment.course_id as courseId',
      'r.day',
      'r.score',
      'o.score as before',
    );
}

/** Graded scores in per cent, by enrolment in the order of grading. A unit's check says what is known, not how somebody is doing. */
export async function gradedScores(
  db: Db,
  view: DriftView,
  learnerIds?: readonly number[],
): Promise<(NewsEnrolment & { at: number; percent: number; category: string | null; item: string; itemId: string })[]> {
  const at = 'ifnull(a.graded_at, a.submitted_at)';
  const points = 'ifnull(a.points, item.points)';
  return seen(db, view, learnerIds)
    .join('item', 'item.course_id', 'enrolment.course_id')
    .join('attempt as a', (on) => on.on('a.item_id', 'item.id').andOn('a.learner_id', 'enrolment.learner_id'))
    .whereNotNull('a.score')
    .whereNull('a.dismissed_at')
    .whereNull('item.stage')
    .whereRaw(`${points} > 0 AND ${at} <= ?`, [endOfView(view)])
    .orderByRaw(`enrolment.id, ${at}, a.id`)
    .select(
      'enrolment.id as enrolmentId',
      'enrolment.learner_id as learnerId',
      'enrolment.course_id as courseId',
      db.raw(`${at} AS at`),
      db.raw(`100.0 * a.score / ${points} AS percent`),
      'item.category',
      'item.title as item',
      'item.external_id as itemId',
    );
}

/** Counted sessions whose roll is taken, by enrolment in time order. */
export async function countedSessions(
  db: Db,
  view: DriftView,
  learnerIds?: readonly number[],
): Promise<(NewsEnrolment & { day: number; credit: number; session: string })[]> {
  return seen(db, view, learnerIds)
    .join('session_outcome as o', 'o.enrolment_id', 'enrolment.id')
    .join('session as s', 's.id', 'o.session_id')
    .where('o.counts', 1)
    .where('o.is_provisional', 0)
    .where('s.ends_at', '<=', view.now)
    .orderBy(['enrolment.id', 's.starts_at', 's.id'])
    .select(
      'enrolment.id as enrolmentId',
      'enrolment.learner_id as learnerId',
      'enrolment.course_id as courseId',
      'o.day',
      'o.credit',
      's.title as session',
    );
}

/** The first day on which somebody wrote in a course: by the log of its discussions, or by a post itself, whichever is earlier. */
export async function firstPosts(
  db: Db,
  view: DriftView,
  zone: string,
  learnerIds?: readonly number[],
): Promise<(NewsEnrolment & { day: number; item: string | null })[]> {
  type First = NewsEnrolment & { day: number; item: string | null };
  const columns = [
    'enrolment.id as enrolmentId',
    'enrolment.learner_id as learnerId',
    'enrolment.course_id as courseId',
    'item.title as item',
  ] as const;
  // With min(), SQLite gives the other columns of the row that has it.
  const [logged, posted]: [First[], (Omit<First, 'day'> & { at: number })[]] = await Promise.all([
    seen(db, view, learnerIds)
      .join('item', 'item.course_id', 'enrolment.course_id')
      .join('item_day as d', (on) => on.on('d.item_id', 'item.id').andOn('d.learner_id', 'enrolment.learner_id'))
      .where('item.kind', 'discussion')
      .where('d.talked', '>', 0)
      .groupBy('enrolment.id')
      .select(...columns, db.raw('min(d.day) AS day')),
    seen(db, view, learnerIds)
      .join('post', (on) =>
        on.on('post.learner_id', 'enrolment.learner_id').andOn('post.course_id', 'enrolment.course_id'),
      )
      .leftJoin('item', 'item.id', 'post.item_id')
      .groupBy('enrolment.id')
      .select(...columns, db.raw('min(post.at) AS at')),
  ]);
  const first = new Map<number, First>(logged.map((one) => [one.enrolmentId, one]));
  for (const { at, ...one } of posted) {
    const day = dayOf(at, zone);
    const known = first.get(one.enrolmentId);
    if (!known || day < known.day) first.set(one.enrolmentId, { ...one, day });
  }
  return [...first.values()];
}

/** Titles of units, by their numbers. */
export async function unitTitles(db: Db, courseIds: readonly number[]): Promise<Map<number, string>> {
  const rows = await db('unit').whereIn('course_id', courseIds).select('id', 'title');
  return new Map(rows.map(({ id, title }) => [id, title]));
}
