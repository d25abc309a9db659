/** What somebody looks at: whose learners, which part of them, as of when. */
import type { Knex } from 'knex';
import type { KeptSetting } from '@/core/drift/setting';
import type { Db } from './db';
import { courseRowInScope, enrolmentInSegment, enrolmentInScope, type ViewScope } from './scope';

export interface View extends ViewScope {
  /** A past day, as of whose end everything is shown; null for now. */
  asOf: number | null;
  /** The instant that "now" is in this view: the clock's, or the last of the past day. */
  now: number;
}

export interface DriftView extends View {
  /** Day of the readings shown. */
  readingDay: number;
  /** What drift was ever set to be read by: a day goes by what held on it. */
  settings: readonly KeptSetting[];
}

/**
 * The instant up to which things are shown: the end of a past day. Now has no end: a source's clock
 * may run a little ahead.
 */
export function endOfView({ asOf, now }: View): number {
  return asOf === null ? Number.MAX_SAFE_INTEGER : now;
}

/** Enrolments in view, as of its day. Ended ones only when asked for. */
export function seenEnrolments(
  db: Db,
  { viewer, segment, asOf }: View,
  status: 'active' | 'all' = 'active',
): Knex.QueryBuilder {
  return db('enrolment')
    .where(enrolmentInScope(viewer))
    .where(enrolmentInSegment(segment))
    .modify((query) => {
      if (asOf !== null) query.where('enrolment.enrolled_day', '<=', asOf);
      if (status === 'all') return;
      if (asOf === null) query.where('enrolment.status', 'active');
      else {
        query.where((then) => then.where('enrolment.status', 'active').orWhere('enrolment.ended_day', '>', asOf));
      }
    });
}

/** SQL of an enrolment's status as of a view's day: what ended later was still going on. */
export function statusThen({ asOf }: View): string {
  if (asOf === null) return 'enrolment.status';
  return `CASE WHEN enrolment.ended_day > ${asOf} AND enrolment.status <> 'merged' THEN 'active' ELSE enrolment.status END`;
}

/** SQL of the day an enrolment ended, as far as that was by a view's day. */
export function endedThen({ asOf }: View): string {
  return asOf === null
    ? 'enrolment.ended_day'
    : `CASE WHEN enrolment.ended_day <= ${asOf} THEN enrolment.ended_day END`;
}

/**
 * Those that have begun by the day of the readings: whoever is enrolled for a day to come is on no list of who needs somebody,
 * and looking back on today will find the same.
 */
export function begunEnrolments(db: Db, view: DriftView): Knex.QueryBuilder {
  return seenEnrolments(db, view).where('enrolment.enrolled_day', '<=', view.readingDay);
}

/** Days, today included, whose readings are made at once when something touches them. */
export const READ_AT_ONCE = 8;

/** Enrolments in view whose readings of the day that is shown wait to be made. */
function waitingToBeRead(db: Db, view: View, today: number): Knex.QueryBuilder {
  const day = view.asOf ?? today;
  return seenEnrolments(db, view, 'all')
    .join('drift_stale', 'drift_stale.enrolment_id', 'enrolment.id')
    .where((waits) => {
      waits.where('drift_stale.recent', 1).where('drift_stale.from_day', '<=', day);
      if (day <= today - READ_AT_ONCE) waits.orWhere('drift_stale.from_day', '<=', day);
    });
}

/** Are readings that are shown in a view being made anew, so that they may still change? */
export async function isBeingRead(db: Db, view: View, today: number): Promise<boolean> {
  const stale = await waitingToBeRead(db, view, today).first(db.raw('1 AS found'));
  // Marked by an upgrade: everything is derived once more.
  return Boolean(stale ?? (await db('touched').where('revision', 0).first('learner_id')));
}

/** Courses of which such readings wait. */
export function coursesBeingRead(db: Db, view: View, today: number): Promise<number[]> {
  return waitingToBeRead(db, view, today).distinct().pluck('enrolment.course_id');
}

/**
 * SQL of a learner's last access or time online over the courses in view, as of its day, for a query with `learner` in it: a few
 * steps in an index for each. Totals of all to be joined were read anew for every learner where the database thought them few.
 */
export function accessOf(db: Db, view: DriftView, what: 'last_at' | 'ms'): Knex.QueryBuilder {
  const { viewer, segment, asOf } = view;
  const last = asOf === null ? 'last_at' : 'last';
  return db(`${asOf === null ? 'learner_course' : 'learner_day'} as lc`)
    .whereRaw('lc.learner_id = learner.id')
    .where(courseRowInScope(db, viewer, 'lc'))
    .modify((query) => {
      if (segment.courseId !== undefined) query.where('lc.course_id', segment.courseId);
      if (asOf !== null) query.where('lc.day', '<=', asOf);
    })
    .select(db.raw(what === 'ms' ? 'ifnull(sum(lc.ms), 0)' : `max(lc.${last})`));
}

/** A list of ids as one value: thousands would be more variables than a statement may have. */
export function idList(db: Db, ids: readonly number[]): Knex.QueryBuilder {
  return db.from(db.raw('json_each(?)', [JSON.stringify(ids)])).select('value');
}
