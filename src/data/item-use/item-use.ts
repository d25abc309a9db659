/** How far each course item has got, and who did something with one in a period. */
import type { ActionKind } from '@/core/access/kinds';
import { groupBy } from '@/core/group-by';
import { ActivityTally, tallyItemUse } from '@/core/item-use/packed-days';
import { prepared, withRaw, type Db, type RawConnection } from '../db';
import { packedDays } from './packed-days';
import { personColumns } from '../person';
import { enrolmentInSegment, enrolmentInScope, type ViewScope } from '../scope';
import { attendedItems } from '../sessions/attended-items';
import { idList } from '../view';

/** Enrolments in view that are active now: the base of reach. */
function baseNow(db: Db, { viewer, segment }: ViewScope) {
  return db('enrolment')
    .where('enrolment.status', 'active')
    .where(enrolmentInScope(viewer))
    .where(enrolmentInSegment(segment));
}

export interface ItemUseRow {
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

interface ItemRow extends Pick<
  ItemUseRow,
  'item_id' | 'item' | 'unit' | 'kind' | 'course' | 'changed_at' | 'opens_at'
> {
  id: number;
  course_id: number;
}

/** Every item of the courses in view, in outline order, with who of those enrolled now opened it on some days. */
export async function itemUseCounts(
  db: Db,
  scope: ViewScope,
  { from, to }: Days,
  weekAgo: number,
): Promise<ItemUseRow[]> {
  const base: { course_id: number; ids: string }[] = await baseNow(db, scope)
    .groupBy('enrolment.course_id')
    .select('enrolment.course_id', db.raw('json_group_array(enrolment.learner_id) AS ids'));
  const learnersOf = new Map(base.map(({ course_id, ids }) => [course_id, JSON.parse(ids) as number[]]));
  const items: ItemRow[] = await db('item')
    .join('course', 'course.id', 'item.course_id')
    .leftJoin('unit', 'unit.id', 'item.unit_id')
    .whereIn('item.course_id', idList(db, [...learnersOf.keys()]))
    .whereNull('item.removed_at')
    .modify((query) => {
      if (scope.segment.courseId !== undefined) query.where('item.course_id', scope.segment.courseId);
    })
    .orderBy(['course.code', 'item.position', 'item.id'])
    .select(
      'item.id',
      'item.course_id',
      'item.external_id as item_id',
      'item.title as item',
      'unit.title as unit',
      'item.kind',
      'course.code as course',
      'item.changed_at',
      'item.opens_at',
    );
  const byCourse = groupBy(items, (item) => item.course_id);
  const rows: ItemUseRow[] = [];
  for (const [courseId, own] of byCourse) {
    const learnerIds = learnersOf.get(courseId)!;
    const question = {
      learnerIds,
      itemIds: own.map((item) => item.id),
      before: weekAgo,
      since: own.map((item) => item.changed_at),
    };
    const tallies = await withRaw(db, (raw) => tallyItemUse(packedDays(raw, courseId, { from, to }), question));
    for (const [index, item] of own.entries()) {
      const { openers, opens, ms, first, last, returners, openersBefore, openersSince } = tallies[index];
      rows.push({
        item_id: item.item_id,
        item: item.item,
        unit: item.unit,
        kind: item.kind,
        course: item.course,
        changed_at: item.changed_at,
        opens_at: item.opens_at,
        base: learnerIds.length,
        openers,
        opens,
        ms,
        first_opened: first,
        last_opened: last,
        opened_since_changed: item.changed_at === null ? null : openersSince,
        openers_week_ago: openersBefore,
        returners,
      });
    }
  }
  return rows;
}

export interface ItemsChange {
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
  /** Those of these days that the period begins or ends inside of. */
  brokenDays: readonly { day: number; from: number; to: number }[];
  /** Sessions that have ended by it count. */
  now: number;
}

export interface WhoDidRow {
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

/** Tells of a deed's events in archives, one by one: of some stretch of time, or of all time. */
export type EachArchived = (
  deed: ItemsChange,
  part: { from?: number; to?: number },
  add: (learnerId: number, at: number) => void,
) => Promise<void>;

interface DoerRow {
  id: number;
  learner_id: string;
  name: string;
}

/**
 * Everybody enrolled at any moment of a period, with how often they did something in it, to the
 * second: whole days from the packed ones, a day that the period begins or ends inside of from the log.
 *
 * @param eachArchived tells of the events among them that are in archives
 */
export async function whoDidRows(
  db: Db,
  { viewer, segment }: ViewScope,
  deed: ItemsChange,
  eachArchived: EachArchived,
): Promise<WhoDidRow[]> {
  const columns = personColumns(viewer);
  const [firstDay, lastDay] = deed.days;
  const learners: DoerRow[] = await db('learner')
    .whereNull('learner.merged_into')
    .whereIn(
      'learner.id',
      // Those of the courses, found by them: by learner, everybody there is would be asked.
      db('enrolment')
        .whereIn('enrolment.course_id', idList(db, deed.courseIds))
        .where('enrolment.enrolled_day', '<=', lastDay)
        .where((then) => then.where('enrolment.status', 'active').orWhere('enrolment.ended_day', '>=', firstDay))
        .where(enrolmentInScope(viewer))
        .where(enrolmentInSegment(segment))
        .select('enrolment.learner_id'),
    )
    .orderByRaw(`${columns.sort}, learner.id`)
    .select('learner.id', db.raw(`${columns.id} AS learner_id`), db.raw(`${columns.name} AS name`));
  const tally = new ActivityTally(
    learners.map((learner) => learner.id),
    deed.from,
    deed.to,
    deed.itemIds.length > 0 ? deed.itemIds : null,
    deed.kind,
  );
  await withRaw(db, (raw) => {
    if (deed.action !== undefined) return addEvents(raw, tally, deed, null);
    const broken = new Set(deed.brokenDays.map(({ day }) => day));
    for (const courseId of deed.courseIds) {
      for (const day of packedDays(raw, courseId)) if (!broken.has(day.day)) tally.addDay(day);
    }
    for (const day of deed.brokenDays) addEvents(raw, tally, deed, day);
    // Being at a session is doing something with its item, of no kind that a log knows.
    if (deed.kind === undefined && deed.itemIds.length > 0) {
      for (const [learnerId, at] of attendedItems(raw, deed.itemIds, deed.now)) tally.add(learnerId, at, at, 1);
    }
  });
  const add = (learnerId: number, at: number) => tally.add(learnerId, at, at, 1);
  const parts = deed.action === undefined ? deed.brokenDays : [{}];
  for (const part of parts) await eachArchived(deed, part, add);
  const known = (value: number) => (Number.isNaN(value) ? null : value);
  return learners.map(({ id, learner_id, name }, index) => ({
    id,
    learner_id,
    name,
    count: tally.count[index],
    first: known(tally.first[index]),
    last: known(tally.last[index]),
    other_last: known(tally.otherLast[index]),
    before: known(tally.before[index]),
    after: known(tally.after[index]),
  }));
}

/** Adds events one by one from the log: of one day, or (for a single word, which no day keeps apart) of all time. */
function addEvents(
  raw: RawConnection,
  tally: ActivityTally,
  deed: ItemsChange,
  day: { from: number; to: number } | null,
): void {
  const byItem = deed.itemIds.length > 0;
  const where = [
    byItem ? 'item_id = @key' : 'course_id = @key AND item_id IS NOT NULL',
    'learner_id IS NOT NULL',
    ...(day ? ['at >= @from AND at < @to'] : []),
    ...(deed.kind ? ['action_id IN (SELECT id FROM action WHERE kind = @kind)'] : []),
    ...(deed.action ? ['action_id IN (SELECT id FROM action WHERE word = @action)'] : []),
  ].join(' AND ');
  const events = prepared(
    raw,
    `SELECT learner_id, at FROM event INDEXED BY ${byItem ? 'event_item' : 'event_course'} WHERE ${where}`,
  ).raw();
  for (const key of byItem ? deed.itemIds : deed.courseIds) {
    for (const [learnerId, at] of events.iterate({
      key,
      ...(day ? { from: day.from, to: day.to } : {}),
      ...(deed.kind ? { kind: deed.kind } : {}),
      ...(deed.action ? { action: deed.action } : {}),
    }) as IterableIterator<[number, number]>) {
      tally.add(learnerId, at, at, 1);
    }
  }
}
