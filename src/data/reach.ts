/** How far each course item has got, and who did something with one in a period. */
import type { ActionKind } from '@/core/access/kinds';
import type { Db } from './db';
import { personColumns } from './person';
import { enrolmentInLens, enrolmentInScope, type Looking } from './scope';

/** Enrolments in view that are active now: the base of reach. */
function baseNow(db: Db, { viewer, lens }: Looking) {
  return db('enrolment')
    .where('enrolment.status', 'active')
    .where(enrolmentInScope(viewer))
    .where(enrolmentInLens(lens));
}

export interface ReachRow {
  item_id: string;
  item: string;
  unit: string | null;
  kind: string;
  base: number;
  openers: number;
  opens: number;
  ms: number;
  first_opened: number | null;
  last_opened: number | null;
  /** Null for an item that was never changed. */
  opened_since_changed: number | null;
  course: string;
  changed_at: number | null;
  opens_at: number | null;
  /** Openers who had opened it by a week ago. */
  openers_week_ago: number;
  /** Openers who came back to it on another day. */
  returners: number;
}

interface Days {
  from?: number;
  /** Included. */
  to?: number;
}

/** Every item of the courses in view, in outline order, with who of those enrolled now opened it on some days. */
export async function reachOfItems(db: Db, looking: Looking, { from, to }: Days, weekAgo: number): Promise<ReachRow[]> {
  const { lens } = looking;
  return db
    .with('base', baseNow(db, looking).select('enrolment.learner_id', 'enrolment.course_id'))
    .with('size', db('base').groupBy('course_id').select('course_id', db.raw('count(*) AS base')))
    .with(
      // Each learner's own days with an item of a course that they are in.
      'opened',
      db('base')
        .join(db.raw('item_day AS d'), 'd.learner_id', 'base.learner_id')
        .join('item as i', (on) => on.on('i.id', 'd.item_id').andOn('i.course_id', 'base.course_id'))
        .modify((query) => {
          if (from !== undefined) query.where('d.day', '>=', from);
          if (to !== undefined) query.where('d.day', '<=', to);
        })
        .groupBy('i.id', 'd.learner_id')
        .select(
          'i.id as item_id',
          db.raw('sum(d.opens) AS opens'),
          db.raw('sum(d.ms) AS ms'),
          db.raw('min(d.first) AS first'),
          db.raw('max(d.last) AS last'),
          db.raw('sum(d.opens > 0) AS days'),
        ),
    )
    .from('item')
    .join('size', 'size.course_id', 'item.course_id')
    .join('course', 'course.id', 'item.course_id')
    .leftJoin('unit', 'unit.id', 'item.unit_id')
    .leftJoin('opened', 'opened.item_id', 'item.id')
    .modify((query) => {
      if (lens.courseId !== undefined) query.where('item.course_id', lens.courseId);
    })
    .groupBy('item.id')
    .orderBy(['course.code', 'item.position', 'item.id'])
    .select(
      'item.external_id as item_id',
      'item.title as item',
      'unit.title as unit',
      'item.kind',
      'course.code as course',
      'item.changed_at',
      'item.opens_at',
      'size.base',
      db.raw('count(CASE WHEN opened.first < ? THEN 1 END) AS openers_week_ago', [weekAgo]),
      db.raw('count(CASE WHEN opened.days > 1 THEN 1 END) AS returners'),
      db.raw('count(CASE WHEN opened.opens > 0 THEN 1 END) AS openers'),
      db.raw('ifnull(sum(opened.opens), 0) AS opens'),
      db.raw('ifnull(sum(opened.ms), 0) AS ms'),
      db.raw('min(opened.first) AS first_opened'),
      db.raw('max(opened.last) AS last_opened'),
      db.raw(
        'CASE WHEN item.changed_at IS NULL THEN NULL ELSE count(CASE WHEN opened.last >= item.changed_at THEN 1 END) END AS opened_since_changed',
      ),
    );
}

export interface Deed {
  /** The items that count; every item of the courses in view when empty. */
  itemIds: readonly number[];
  courseIds: readonly number[];
  kind?: ActionKind;
  action?: string;
  from: number;
  /** Not included. */
  to: number;
  /** The days of the period, both included. */
  days: readonly [number, number];
}

export interface DeedRow {
  learner_id: string;
  name: string;
  count: number;
  first: number | null;
  last: number | null;
  /** The last time outside of the period, earlier or later. */
  other_last: number | null;
  /** The last time before the period, and the first after it. */
  before: number | null;
  after: number | null;
  /** The database's id. */
  id: number;
}

/**
 * Everybody enrolled at any moment of a period, with how often they did something in it, by the
 * log itself: to the second, whatever the day.
 */
export async function whoDid(db: Db, { viewer, lens }: Looking, deed: Deed): Promise<DeedRow[]> {
  const { id, name } = personColumns(viewer);
  const [firstDay, lastDay] = deed.days;
  const events = () =>
    db('event')
      .whereRaw('event.learner_id = learner.id')
      .modify((query) => {
        if (deed.itemIds.length > 0) query.whereIn('event.item_id', deed.itemIds as number[]);
        else query.whereIn('event.course_id', deed.courseIds as number[]).whereNotNull('event.item_id');
        if (deed.kind) query.whereIn('event.action_id', db('action').where('kind', deed.kind).select('id'));
        if (deed.action) query.whereIn('event.action_id', db('action').where('word', deed.action).select('id'));
      });
  const inPeriod = (what: string) =>
    events().where('event.at', '>=', deed.from).where('event.at', '<', deed.to).select(db.raw(what));
  const before = events().where('event.at', '<', deed.from).max('event.at');
  const after = events().where('event.at', '>=', deed.to).min('event.at');
  const outside = events()
    .where((either) => either.where('event.at', '<', deed.from).orWhere('event.at', '>=', deed.to))
    .max('event.at');
  return db('learner')
    .whereNull('learner.merged_into')
    .whereExists(
      db('enrolment')
        .whereRaw('enrolment.learner_id = learner.id')
        .whereIn('enrolment.course_id', deed.courseIds as number[])
        .where('enrolment.enrolled_day', '<=', lastDay)
        .where((then) => then.where('enrolment.status', 'active').orWhere('enrolment.ended_day', '>', firstDay))
        .where(enrolmentInScope(viewer))
        .where(enrolmentInLens(lens)),
    )
    .orderByRaw(`${name} COLLATE NOCASE, learner.id`)
    .select(
      db.raw(`${id} AS learner_id`),
      db.raw(`${name} AS name`),
      inPeriod('count(*)').as('count'),
      inPeriod('min(event.at)').as('first'),
      inPeriod('max(event.at)').as('last'),
      outside.as('other_last'),
      before.as('before'),
      after.as('after'),
      'learner.id',
    );
}
