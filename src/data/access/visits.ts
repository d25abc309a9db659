/** Visits, days and the events of a visit, cut to the viewer's scope. */
import type { Knex } from 'knex';
import type { ActionKind } from '@/core/access/kinds';
import type { VisitShown } from '@/core/contact/person';
import type { Db } from '../db';
import { freeText } from '../person';
import { courseRowInScope, type Segment, type Viewer } from '../scope';

export interface VisitRow extends VisitShown {
  learner_id: number;
}

interface Stretch {
  from?: number;
  /** Not included. */
  to?: number;
  /** At most this many of each learner, newest first. */
  each?: number;
}

/** Visits of some learners, newest first: the part of each in the courses in view. */
export async function visitsOfLearners(
  db: Db,
  viewer: Viewer,
  segment: Segment,
  learnerIds: readonly number[],
  { from, to, each }: Stretch,
): Promise<VisitRow[]> {
  const inView = (alias: string) => (query: Knex.QueryBuilder) => {
    query.where(courseRowInScope(db, viewer, alias));
    if (segment.courseId !== undefined) query.where(`${alias}.course_id`, segment.courseId);
  };
  const rows = await db('visit_course as vp')
    .join('course', 'course.id', 'vp.course_id')
    .whereIn('vp.learner_id', learnerIds)
    .modify(inView('vp'))
    .modify((query) => {
      if (from !== undefined) query.where('vp.visit_start', '>=', from);
      if (to !== undefined) query.where('vp.visit_start', '<', to);
      if (each === undefined) return;
      // The start of the last visit wanted, found from the newest back, so that a long past costs nothing.
      const oldest = db('visit_course as past')
        .whereRaw('past.learner_id = vp.learner_id')
        .modify(inView('past'))
        .modify((earlier) => {
          if (to !== undefined) earlier.where('past.visit_start', '<', to);
        })
        .distinct('past.visit_start')
        .orderBy('past.visit_start', 'desc')
        .limit(1)
        .offset(each - 1);
      query.whereRaw('vp.visit_start >= ifnull((?), 0)', [oldest]);
    })
    .groupBy('vp.learner_id', 'vp.visit_start')
    .orderBy([{ column: 'vp.learner_id' }, { column: 'vp.visit_start', order: 'desc' }])
    .select(
      'vp.learner_id',
      'vp.visit_start as start',
      db.raw('min(vp.first) AS first'),
      db.raw('max(vp.last) AS last'),
      db.raw('sum(vp.ms) AS ms'),
      db.raw('sum(vp.events) AS events'),
      db.raw('json_group_array(course.code) AS courses'),
    );
  return rows.map((row: Omit<VisitRow, 'courses'> & { courses: string }) => ({
    ...row,
    courses: JSON.parse(row.courses),
  }));
}

export interface EventRow {
  at: number;
  course: string;
  item: string | null;
  item_id: string | null;
  action: string;
  kind: ActionKind;
  address: string | null;
}

/** A learner's events from one instant to another, both included, in time order. */
export async function eventsOfLearner(
  db: Db,
  viewer: Viewer,
  segment: Segment,
  learnerId: number,
  from: number,
  to: number,
  limit: number,
): Promise<EventRow[]> {
  return db('event')
    .join('course', 'course.id', 'event.course_id')
    .join('action', 'action.id', 'event.action_id')
    .leftJoin('item', 'item.id', 'event.item_id')
    .where('event.learner_id', learnerId)
    .whereBetween('event.at', [from, to])
    .where(courseRowInScope(db, viewer, 'event'))
    .modify((query) => {
      if (segment.courseId !== undefined) query.where('event.course_id', segment.courseId);
    })
    .orderBy(['event.at', 'event.id'])
    .limit(limit)
    .select(
      'event.at',
      'course.code as course',
      'item.title as item',
      'item.external_id as item_id',
      'action.word as action',
      'action.kind',
      db.raw(`${freeText(viewer, 'event.address')} AS address`),
    );
}

export interface DayMinutes {
  learner_id: number;
  day: number;
  ms: number;
  events: number;
}

/** Time online by day, over the courses in view. */
export async function daysOfLearners(
  db: Db,
  viewer: Viewer,
  segment: Segment,
  learnerIds: readonly number[],
  fromDay: number,
  toDay: number,
): Promise<DayMinutes[]> {
  return db('learner_day as ld')
    .whereIn('ld.learner_id', learnerIds)
    .whereBetween('ld.day', [fromDay, toDay])
    .where(courseRowInScope(db, viewer, 'ld'))
    .modify((query) => {
      if (segment.courseId !== undefined) query.where('ld.course_id', segment.courseId);
    })
    .groupBy('ld.learner_id', 'ld.day')
    .select('ld.learner_id', 'ld.day', db.raw('sum(ld.ms) AS ms'), db.raw('sum(ld.events) AS events'));
}
