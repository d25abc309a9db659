/** What there is of one learner in a period: the rows that settle a claim. */
import type { Knex } from 'knex';
import type { Db } from '../db';
import { closedTo } from '../privacy/retention';
import { hasResultsSql } from '../work/has-results';
import { courseRowInScope, type Segment, type Viewer } from '../scope';

export interface TouchedItem {
  course: string;
  item_id: string;
  item: string;
  opens: number;
  ms: number;
  last: number | null;
}

interface Days {
  from: number;
  to: number;
}

/** Items the learner touched on some days, both included, the longest first. */
export async function itemsTouched(
  db: Db,
  viewer: Viewer,
  segment: Segment,
  learnerId: number,
  { from, to }: Days,
): Promise<TouchedItem[]> {
  const rows = db('item_day')
    .join('item', 'item.id', 'item_day.item_id')
    .where('item_day.learner_id', learnerId)
    .whereBetween('item_day.day', [from, to])
    .where('item_day.events', '>', 0)
    .select('item_day.*', 'item.course_id', 'item.external_id', 'item.title');
  return db
    .from(rows.as('t'))
    .join('course', 'course.id', 't.course_id')
    .where(courseRowInScope(db, viewer, 't'))
    .modify((query) => {
      if (segment.courseId !== undefined) query.where('t.course_id', segment.courseId);
    })
    .groupBy('t.item_id')
    .orderByRaw('sum(t.ms) DESC, t.item_id')
    .select(
      'course.code as course',
      't.external_id as item_id',
      't.title as item',
      db.raw('sum(t.opens) AS opens'),
      db.raw('sum(t.ms) AS ms'),
      db.raw('max(t.last) AS last'),
    );
}

/** A hand-in, by results or, where they tell nothing of the item, by the log. */
export interface ClaimedHandIn {
  at: number;
  course: string;
  item: string;
}

/** What the log says was handed in, and results do not. */
export type DifferingHandIn = ClaimedHandIn;

/** The log's word for handing in, and how far from it a result's time may lie to be the same, in ms. */
const HANDING_IN = 'submitted';
const SAME_WITHIN = 86_400_000;

/**
 * What was handed in in a period, as the whole application has it: by results, and by the log for items of which results tell
 * nothing. Beside it what the log says and results do not: whoever settles a claim is to know that the two differ.
 */
export async function handIns(
  db: Db,
  viewer: Viewer,
  segment: Segment,
  learnerId: number,
  from: number,
  to: number,
): Promise<{ handedIn: ClaimedHandIn[]; differing: DifferingHandIn[] }> {
  const within = (rows: Knex.QueryBuilder): Knex.QueryBuilder =>
    db
      .from(rows.as('t'))
      .join('course', 'course.id', 't.course_id')
      .join('item', 'item.id', 't.item_id')
      .where('t.learner_id', learnerId)
      .where('t.at', '>=', from)
      .where('t.at', '<', to)
      .where(courseRowInScope(db, viewer, 't'))
      .modify((query) => {
        if (segment.courseId !== undefined) query.where('t.course_id', segment.courseId);
      })
      .orderBy('t.at');
  const results = db('attempt')
    .join('item', 'item.id', 'attempt.item_id')
    .whereNotNull('submitted_at')
    .whereNull('dismissed_at')
    .select('attempt.learner_id', 'item.course_id', 'attempt.item_id', 'attempt.submitted_at as at');
  const ofLog: Knex.QueryBuilder = db('event')
    .join('action', 'action.id', 'event.action_id')
    .where('action.word', HANDING_IN)
    .whereNotNull('event.item_id')
    .select('event.learner_id', 'event.course_id', 'event.item_id', 'event.at');
  // Of courses whose events have left the log, the first hand-in of each day.
  const ofDays: Knex.QueryBuilder = db('item_day')
    .join('item', 'item.id', 'item_day.item_id')
    .whereNotNull('item_day.submitted')
    .whereRaw(`item_day.day <= ${closedTo('to_day', 'item.course_id')}`)
    .select('item_day.learner_id', 'item.course_id', 'item_day.item_id', 'item_day.submitted as at');
  const log = ofLog.unionAll([ofDays]);
  const [given, logged] = await Promise.all([
    within(results).select<ClaimedHandIn[]>('t.at', 'course.code as course', 'item.title as item'),
    within(log).select<(ClaimedHandIn & { has_results: number; is_same: number })[]>(
      't.at',
      'course.code as course',
      'item.title as item',
      db.raw(`${hasResultsSql('t.item_id')} AS has_results`),
      db.raw(
        `EXISTS (SELECT 1 FROM attempt WHERE attempt.item_id = t.item_id AND attempt.learner_id = t.learner_id
          AND abs(attempt.submitted_at - t.at) <= ${SAME_WITHIN}) AS is_same`,
      ),
    ),
  ]);
  const plain = ({ at, course, item }: ClaimedHandIn): ClaimedHandIn => ({ at, course, item });
  return {
    handedIn: [...given, ...logged.filter((one) => one.has_results === 0)].map(plain).sort((a, b) => a.at - b.at),
    differing: logged.filter((one) => one.has_results === 1 && one.is_same === 0).map(plain),
  };
}
