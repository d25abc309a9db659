/** Learners as lists and pages show them. Everything here is cut to the viewer's scope. */
import type { Knex } from 'knex';
import { foldText } from '@/core/people/fold';
import { standsFor } from '@/core/hidden-names/stand-ins';
import type { Band } from '@/core/drift/bands';
import { countOf, prepared, withRaw, type Db } from '../db';
import { personColumns } from '../person';
import {
  ENROLLED_DAY,
  columnSql,
  driftOf,
  overdueItems,
  holds,
  type Condition,
  type LearnerColumn,
} from './learner-columns';
import { learnerInScope, type Viewer } from '../scope';
import { accessOf, idList, seenEnrolments, type DriftView } from '../view';

export interface LearnerFilter {
  q?: string;
  /** What columns have to hold. */
  where?: readonly Condition[];
  /** Nobody has tried to reach them since this instant. */
  notContactedSince?: number;
  /** Who has opened an item of a course they are in, or has not. */
  item?: OpenedFilter;
  status?: 'active' | 'all';
}

/** The same people as reach counts. */
interface OpenedFilter {
  id: number;
  courseId: number;
  opened: boolean;
  /** Only on these days, both included. */
  fromDay?: number;
  toDay?: number;
  /** Last opened at this instant or later. */
  lastSince?: number;
  /** First opened at this instant or later. */
  firstSince?: number;
}

export interface LearnerRow {
  id: number;
  learner_id: string;
  given_name: string;
  family_name: string;
  email: string | null;
  phone: string | null;
  organisation: string | null;
  courses: string[];
  /** First day of any enrolment in view. */
  enrolled_day: number;
  last_at: number | null;
  ms: number;
  /** The last contact attempt by anybody. */
  contact_at: number | null;
  /** Pieces owed now in the courses in view; null of a past day. */
  overdue: number | null;
  score: number | null;
  band: Band | null;
  /** 1 for somebody whom no roster has told of yet. */
  provisional: 0 | 1;
}

/** What finds a text folded by `fold_text`: accents and capitals make no difference, `%` and `_` stand for themselves. */
export function likePattern(text: string): string {
  return `%${foldText(text).replace(/[\\%_]/g, (mark) => `\\${mark}`)}%`;
}

/** Condition: every word typed is a part of the learner's name, id, e-mail or phone, as the viewer sees them. */
function matchesText(viewer: Viewer, q: string) {
  const { find } = personColumns(viewer);
  return (builder: Knex.QueryBuilder) => {
    for (const word of q.split(/\s+/).filter(Boolean))
      builder.whereRaw(`${find} LIKE ? ESCAPE '\\'`, [likePattern(word)]);
  };
}

/** Is it a part of all learners that is looked at, by scope or by choice? */
function isPart({ viewer, segment }: DriftView): boolean {
  return !viewer.all || Object.values(segment).some((id) => id !== undefined);
}

/** The learners that match. */
function matching(db: Db, view: DriftView, filter: LearnerFilter) {
  const { status, where = [] } = filter;
  const theirEnrolments = seenEnrolments(db, view, status).whereRaw('enrolment.learner_id = learner.id');
  // Of a part one begins with its enrolments; of everyone with the learners themselves.
  const query: Knex.QueryBuilder = isPart(view)
    ? db.from(
        db.raw('(?) AS own CROSS JOIN learner ON learner.id = own.learner_id', [
          seenEnrolments(db, view, status).distinct('enrolment.learner_id'),
        ]),
      )
    : db('learner').whereExists(theirEnrolments.clone());
  query.whereNull('learner.merged_into');
  if (filter.q) query.where(matchesText(view.viewer, filter.q));
  for (const condition of where) query.where(holds(db, view, condition, status));
  if (filter.notContactedSince !== undefined) {
    query.whereNotIn(
      'learner.id',
      db('contact_attempt').whereBetween('at', [filter.notContactedSince, view.now]).select('learner_id'),
    );
  }
  if (filter.item) {
    const { item } = filter;
    // Of another course nothing is told by it, neither that they did nor that they did not.
    query.whereExists(theirEnrolments.clone().where('enrolment.course_id', item.courseId));
    const opened = () =>
      db('item_day')
        .whereRaw('item_day.learner_id = learner.id')
        .where('item_day.item_id', item.id)
        .where('item_day.opens', '>', 0)
        .modify((days) => {
          if (view.asOf !== null) days.where('item_day.day', '<=', view.asOf);
          if (item.fromDay !== undefined) days.where('item_day.day', '>=', item.fromDay);
          if (item.toDay !== undefined) days.where('item_day.day', '<=', item.toDay);
        });
    if (!item.opened) query.whereNotExists(opened());
    else {
      const { lastSince } = item;
      query.whereExists(lastSince === undefined ? opened() : opened().where('item_day.last', '>=', lastSince));
      if (item.firstSince !== undefined) query.whereNotExists(opened().where('item_day.first', '<', item.firstSince));
    }
  }
  return query;
}

export interface ListPage {
  sort: LearnerColumn;
  descending: boolean;
  limit: number;
  /** Rows passed over: for a page that is known by its number. */
  offset?: number;
  /** What the row before the first is sorted by, and its id: for a list that goes on from a row. */
  after?: { by: string | number | null; id: number };
}

/** The order of a list: what it goes by, and its clause. */
function orderOf(db: Db, view: DriftView, filter: LearnerFilter, page: Pick<ListPage, 'sort' | 'descending'>) {
  const sql = columnSql(db, view, page.sort, filter.status);
  // Days quiet run against last access: more days is an earlier instant.
  const descending = page.sort === 'days_quiet' ? !page.descending : page.descending;
  // Never accessed is the quietest there is, and has no last access.
  const nullsFirst = page.sort === 'days_quiet' ? !descending : false;
  const by = typeof sql === 'string' ? db.raw(sql) : sql;
  const clause = `? ${descending ? 'DESC' : 'ASC'} NULLS ${nullsFirst ? 'FIRST' : 'LAST'}, learner.id`;
  return { by, descending, nullsFirst, order: db.raw(clause, [by]) };
}

/** Ids of all learners in view that match, or of the first of them, in the order of a list. */
export async function matchingIds(
  db: Db,
  view: DriftView,
  filter: LearnerFilter,
  page: Pick<ListPage, 'sort' | 'descending'>,
  first?: number,
): Promise<number[]> {
  const inOrder = matching(db, view, filter)
    .orderByRaw(orderOf(db, view, filter, page).order)
    .select('learner.id');
  if (first !== undefined) inOrder.limit(first);
  // One value is read sooner than thousands of rows.
  const row = await db.from(inOrder.as('matching')).first<{ ids: string }>(db.raw('json_group_array(id) AS ids'));
  return JSON.parse(row.ids) as number[];
}

/** How many learners in view match. */
export async function countLearners(db: Db, view: DriftView, filter: LearnerFilter): Promise<number> {
  return countOf(matching(db, view, filter));
}

/** One page of the learners in view, and how many there are in all. */
export async function listLearners(
  db: Db,
  view: DriftView,
  filter: LearnerFilter,
  page: ListPage,
): Promise<{ rows: LearnerRow[]; total: number; last: ListPage['after'] | null }> {
  const { by, order, ...ordered } = orderOf(db, view, filter, page);
  const query = matching(db, view, filter)
    .orderByRaw(order)
    // One more than is shown tells whether the list goes on.
    .limit(page.limit + 1)
    .select('learner.id', db.raw('? AS place', [by]));
  if (page.after) query.where(isAfter(db, by, page.after, ordered));
  else query.offset(page.offset ?? 0).select(db.raw('count(*) OVER () AS total'));
  const found: { id: number; total?: number; place: string | number | null }[] = await query;
  const goesOn = found.length > page.limit;
  if (goesOn) found.pop();
  const ids = found.map((row) => row.id);
  const byId = new Map((await learnersById(db, view, ids, filter.status)).map((row) => [row.id, row]));
  const rows = ids.map((id) => byId.get(id)!);
  const isBeginning = !page.after && !page.offset;
  const total = found[0]?.total ?? (isBeginning ? 0 : await countLearners(db, view, filter));
  const last = found.at(-1);
  return { rows, total, last: goesOn && last ? { by: last.place, id: last.id } : null };
}

/** Condition: the row stands after a place in the order of the list. */
function isAfter(
  db: Db,
  by: Knex.Raw | Knex.QueryBuilder,
  { by: value, id }: { by: string | number | null; id: number },
  { descending, nullsFirst }: { descending: boolean; nullsFirst: boolean },
) {
  return (query: Knex.QueryBuilder) => {
    if (value === null) {
      query.where((same) => same.whereRaw('? IS NULL', [by]).where('learner.id', '>', id));
      if (nullsFirst) query.orWhereRaw('? IS NOT NULL', [by]);
      return;
    }
    // The value stands at the right, so that the order's own collation is the comparison's.
    query.whereRaw(`? ${descending ? '<' : '>'} ?`, [by, value]);
    query.orWhere((same) => same.whereRaw('? = ?', [by, value]).where('learner.id', '>', id));
    if (!nullsFirst) query.orWhereRaw('? IS NULL', [by]);
  };
}

/** The learners with these ids, of those in view; in no particular order. */
export async function learnersById(
  db: Db,
  view: DriftView,
  ids: readonly number[],
  status: 'active' | 'all' = 'all',
): Promise<LearnerRow[]> {
  if (ids.length === 0) return [];
  const { id, given, family, email, phone } = personColumns(view.viewer);
  const rows = await db('learner')
    .join(
      seenEnrolments(db, view, status)
        .whereIn('enrolment.learner_id', idList(db, ids))
        .join('course', 'course.id', 'enrolment.course_id')
        .groupBy('enrolment.learner_id')
        .select(
          'enrolment.learner_id',
          db.raw('json_group_array(course.code ORDER BY course.code) AS courses'),
          db.raw(`${ENROLLED_DAY} AS enrolled_day`),
        )
        .as('seen'),
      'seen.learner_id',
      'learner.id',
    )
    .leftJoin('organisation', 'organisation.id', 'learner.organisation_id')
    .whereNull('learner.merged_into')
    .select(
      'learner.id',
      db.raw(`${id} AS learner_id`),
      db.raw(`${given} AS given_name`),
      db.raw(`${family} AS family_name`),
      db.raw(`${email} AS email`),
      db.raw(`${phone} AS phone`),
      db.raw('learner.provisional IS NOT NULL AS provisional'),
      'organisation.name as organisation',
      'seen.courses',
      'seen.enrolled_day',
      accessOf(db, view, 'last_at').as('last_at'),
      accessOf(db, view, 'ms').as('ms'),
      db.raw(`(SELECT max(at) FROM contact_attempt WHERE learner_id = learner.id AND at <= ?) AS contact_at`, [
        view.now,
      ]),
      driftOf(db, view, status, 'score').as('score'),
      driftOf(db, view, status, 'band').as('band'),
      overdueItems(db, view, status).as('overdue'),
    );
  return rows.map((row: Omit<LearnerRow, 'courses'> & { courses: string }) => ({
    ...row,
    courses: JSON.parse(row.courses),
  }));
}

/**
 * The database's id of a learner in scope, by the source's id (or by its stand-in, while names
 * are hidden); null for anybody else's. A record that was merged leads to the one that was kept.
 */
export async function findLearner(db: Db, viewer: Viewer, externalId: string): Promise<number | null> {
  const known = viewer.standInKey === null ? null : standsFor(viewer.standInKey, externalId);
  if (viewer.standInKey !== null && known === null) return null;
  const text = `SELECT ifnull(merged_into, id) FROM learner WHERE ${known === null ? 'external_id' : 'id'} = ?`;
  const id = await withRaw(
    db,
    (raw) =>
      prepared(raw, text)
        .pluck()
        .get(known ?? externalId) as number | undefined,
  );
  if (id === undefined) return null;
  if (viewer.all) return id;
  const seen = await db('learner').where('learner.id', id).where(learnerInScope(db, viewer)).first('learner.id');
  return seen?.id ?? null;
}

/** The same of several at once, by the ids that were given; nobody's are missing. */
export async function findLearners(
  db: Db,
  viewer: Viewer,
  externalIds: readonly string[],
): Promise<Map<string, number>> {
  const stood = (id: string) => (viewer.standInKey === null ? null : standsFor(viewer.standInKey, id));
  const asked = externalIds.map((id) => [id, viewer.standInKey === null ? id : stood(id)] as const);
  const rows: { asked: string; id: number }[] = await db
    .from(db.raw('json_each(?) AS asked', [JSON.stringify(asked.filter(([, by]) => by !== null))]))
    .joinRaw(
      `JOIN learner AS found ON found.${viewer.standInKey === null ? 'external_id' : 'id'} = json_extract(asked.value, '$[1]')
       JOIN learner ON learner.id = ifnull(found.merged_into, found.id)`,
    )
    .where(learnerInScope(db, viewer))
    .select('learner.id', db.raw("json_extract(asked.value, '$[0]') AS asked"));
  return new Map(rows.map(({ asked: by, id }) => [by, id]));
}

/** Numbers of records, those that were merged into another by the one that was kept. */
export async function keptNumbers(db: Db, ids: readonly number[]): Promise<number[]> {
  const rows: { kept: number }[] = await db('learner')
    .whereIn('id', idList(db, ids))
    .distinct(db.raw('ifnull(merged_into, id) AS kept'));
  return rows.map(({ kept }) => kept);
}

export interface NameRow {
  id: number;
  learner_id: string;
  given_name: string;
  family_name: string;
}

/** Names of those of the ids given that the viewer may see. */
export async function namesOf(db: Db, viewer: Viewer, ids: readonly number[]): Promise<NameRow[]> {
  const { id, given, family } = personColumns(viewer);
  return db('learner')
    .whereIn('learner.id', idList(db, ids))
    .where(learnerInScope(db, viewer))
    .select(
      'learner.id',
      db.raw(`${id} AS learner_id`),
      db.raw(`${given} AS given_name`),
      db.raw(`${family} AS family_name`),
    );
}

/** Those of the ids given that the viewer may see. */
export async function keepInScope(db: Db, viewer: Viewer, ids: readonly number[]): Promise<number[]> {
  return db('learner')
    .whereIn('id', idList(db, ids))
    .whereNull('merged_into')
    .where(learnerInScope(db, viewer))
    .pluck('id');
}
