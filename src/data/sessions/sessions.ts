/** The timetable as somebody sees it: sessions with how many were expected and how many were there. */
import { setImmediate as breathe } from 'node:timers/promises';
import type { Knex } from 'knex';
import type { SessionMode } from '@/core/sessions/timetable';
import { countOf, type Db, type RawConnection } from '../db';
import { staffName } from '../person';
import { enrolmentInScope, learnerOf, sessionInSegment, sessionInScope, type ViewScope, type Viewer } from '../scope';
import { idList } from '../view';

/** A session with what its course and people are called. */
export interface SessionRow {
  id: number;
  session_id: string;
  course_id: number;
  course: string;
  course_title: string;
  group_id: number | null;
  group: string | null;
  series_id: number | null;
  title: string;
  day: number;
  starts_at: number;
  ends_at: number;
  mode: SessionMode;
  place: string;
  instructor_id: number | null;
  instructor: string | null;
  cancelled: number;
  reason: string;
  roll_at: number | null;
  sequence: number;
  changed_at: number;
}

/** The same with its people counted, of those that the viewer sees. */
export interface CountedSession extends SessionRow {
  /** Enrolled at its start. */
  expected: number;
  /** Whose outcome has credit: by mark, or provisionally by check-in or presence. */
  present: number;
  /** Rows of presence whose people nobody has told. */
  unmatched: number;
  /** Is there any row of presence? */
  has_presence: number;
}

/** Sessions that are there, in scope and in the part looked at, with their names. */
function seenSessions(db: Db, { viewer, segment }: ViewScope): Knex.QueryBuilder {
  return db('session')
    .join('course', 'course.id', 'session.course_id')
    .leftJoin('course_group', 'course_group.id', 'session.group_id')
    .leftJoin('staff', 'staff.id', 'session.instructor_id')
    .whereNull('session.removed_at')
    .where(sessionInScope(db, viewer))
    .where(sessionInSegment(db, segment))
    .select(
      'session.id',
      'session.external_id as session_id',
      'session.course_id',
      'course.code as course',
      'course.title as course_title',
      'session.group_id',
      'course_group.name as group',
      'session.series_id',
      'session.title',
      'session.day',
      'session.starts_at',
      'session.ends_at',
      'session.mode',
      'session.place',
      'session.instructor_id',
      db.raw(`${staffName(viewer)} AS instructor`),
      'session.cancelled',
      'session.reason',
      'session.roll_at',
      'session.sequence',
      'session.changed_at',
    );
}

/** A session by its id; null for one that is not there or not the viewer's to see. */
export async function findSession(db: Db, scope: ViewScope, sessionId: string): Promise<SessionRow | null> {
  return (await seenSessions(db, scope).where('session.external_id', sessionId).first()) ?? null;
}

/** Sessions by their ids, those in scope, in time order. */
export async function sessionsNamed(db: Db, viewer: Viewer, sessionIds: readonly string[]): Promise<SessionRow[]> {
  return seenSessions(db, { viewer, segment: {} })
    .whereIn('session.external_id', db.from(db.raw('json_each(?)', [JSON.stringify(sessionIds)])).select('value'))
    .orderBy(['session.starts_at', 'session.id']);
}

export interface SessionSearch {
  /** Starting from an instant on, and before another. */
  from?: number;
  to?: number;
  /** Only those held whose roll is still to be taken: ended by this instant. */
  withoutRollAt?: number;
  newestFirst?: boolean;
  limit: number;
  after?: readonly [by: string | number | null, id: string | number] | null;
}

function searched(db: Db, scope: ViewScope, { from, to, withoutRollAt }: SessionSearch): Knex.QueryBuilder {
  return seenSessions(db, scope).modify((query) => {
    if (from !== undefined) query.where('session.starts_at', '>=', from);
    if (to !== undefined) query.where('session.starts_at', '<', to);
    if (withoutRollAt !== undefined) {
      query.where('session.ends_at', '<=', withoutRollAt).where('session.cancelled', 0).whereNull('session.roll_at');
    }
  });
}

/** Sessions in time order, a page of them. */
export async function findSessions(
  db: Db,
  scope: ViewScope,
  search: SessionSearch,
): Promise<{ rows: SessionRow[]; total: number; goesOn: boolean }> {
  const { limit, after = null, newestFirst = false } = search;
  const [order, beyond] = newestFirst ? (['desc', '<'] as const) : (['asc', '>'] as const);
  const total = await countOf(searched(db, scope, search).clearSelect());
  const rows: SessionRow[] = await searched(db, scope, search)
    .modify((query) => {
      if (after) {
        query.whereRaw(`(session.starts_at, session.id) ${beyond} (?, ?)`, [Number(after[0]), Number(after[1])]);
      }
    })
    .orderBy([
      { column: 'session.starts_at', order },
      { column: 'session.id', order },
    ])
    .limit(limit + 1);
  return { rows: rows.slice(0, limit), total, goesOn: rows.length > limit };
}

/** The same with their people counted: for a page that says how many were there. */
export async function findCountedSessions(db: Db, scope: ViewScope, search: SessionSearch) {
  const found = await findSessions(db, scope, search);
  return { ...found, rows: await withCounts(db, scope, found.rows) };
}

/** How many sessions that are the viewer's own to take have no roll: held, begun since an instant and ended by another. */
export async function countWithoutRoll(db: Db, viewer: Viewer, from: number, now: number): Promise<number> {
  const whole = { viewer, segment: {} };
  return countOf(
    searched(db, whole, { from, withoutRollAt: now, limit: 0 })
      .clearSelect()
      .modify((query) => {
        if (viewer.all) return;
        query.where((own) => {
          own.whereIn('session.course_id', viewer.courses);
          own.orWhereIn('session.group_id', viewer.groups);
          own.orWhere((all) =>
            all
              .whereNull('session.group_id')
              .whereIn('session.course_id', db('course_group').whereIn('id', viewer.groups).select('course_id')),
          );
        });
      }),
  );
}

/** SQL that says who was expected in a session: enrolled at its start, in its group where it has one. */
export const EXPECTED = `e.course_id = s.course_id AND (s.group_id IS NULL OR e.group_id = s.group_id) AND e.status <> 'merged'
  AND e.enrolled_day <= s.day AND (e.ended_day IS NULL OR e.ended_day >= s.day)`;

/** Sessions with their people counted: those of the viewer, and of an organisation that is looked at. */
export async function withCounts(db: Db, scope: ViewScope, rows: readonly SessionRow[]): Promise<CountedSession[]> {
  const counted: CountedSession[] = [];
  for (let start = 0; start < rows.length; start += AT_ONCE) {
    counted.push(...(await countPeople(db, scope, rows.slice(start, start + AT_ONCE))));
    await breathe();
  }
  return counted;
}

/** Sessions whose people are counted at a time, after which the server sees to others. */
const AT_ONCE = 50;

async function countPeople(
  db: Db,
  { viewer, segment }: ViewScope,
  rows: readonly SessionRow[],
): Promise<CountedSession[]> {
  const ids = idList(
    db,
    rows.map((row) => row.id),
  );
  const [people, records] = await Promise.all([
    db('session as s')
      .join('enrolment as e', (on) => on.on(db.raw(EXPECTED)))
      .leftJoin('session_outcome as o', (on) => on.on('o.session_id', 's.id').andOn('o.enrolment_id', 'e.id'))
      .whereIn('s.id', ids)
      .where(enrolmentInScope(viewer, 'e'))
      .where(learnerOf(segment, 'e.learner_id'))
      .groupBy('s.id')
      .select('s.id', db.raw('count(*) AS expected'), db.raw('total(o.credit > 0) AS present')),
    db('presence_row')
      .whereIn('session_id', ids)
      .groupBy('session_id')
      .select('session_id', db.raw('sum(matched IS NULL) AS unmatched'), db.raw('1 AS has_presence')),
  ]);
  const counts = new Map((people as Counted[]).map((row) => [row.id, row]));
  const presence = new Map((records as unknown as Recorded[]).map((row) => [row.session_id, row]));
  return rows.map((row) => {
    const { expected, present } = counts.get(row.id) ?? { expected: 0, present: 0 };
    const { unmatched, has_presence } = presence.get(row.id) ?? { unmatched: 0, has_presence: 0 };
    return { ...row, expected, present, unmatched, has_presence };
  });
}

interface Counted {
  id: number;
  expected: number;
  present: number;
}

interface Recorded {
  session_id: number;
  unmatched: number;
  has_presence: number;
}

/**
 * Sessions that came from repeated events of a calendar file, still to come and held, that a newer version of the file
 * does not have.
 * @param ids of all that the newer version has: an instance's is its event's id, a stroke, and its time
 */
export async function instancesStored(
  db: Db,
  ids: readonly string[],
  now: number,
): Promise<
  Pick<SessionRow, 'course' | 'group' | 'session_id' | 'title' | 'starts_at' | 'ends_at' | 'mode' | 'place'>[]
> {
  return db
    .from(
      db.raw(
        '(SELECT DISTINCT substr(value, 1, length(value) - 17) AS base FROM json_each(?) WHERE substr(value, -17, 1) = ?) AS known',
        [JSON.stringify(ids), '/'],
      ),
    )
    .join('session', (on) =>
      on.on(db.raw("session.external_id > known.base || '/' AND session.external_id < known.base || '0'")),
    )
    .join('course', 'course.id', 'session.course_id')
    .leftJoin('course_group', 'course_group.id', 'session.group_id')
    .whereNotNull('session.imported')
    .whereNull('session.removed_at')
    .where('session.cancelled', 0)
    .where('session.starts_at', '>', now)
    .whereNotIn('session.external_id', db.from(db.raw('json_each(?)', [JSON.stringify(ids)])).select('value'))
    .orderBy('session.external_id')
    .select(
      'course.code as course',
      db.raw('ifnull(course_group.name, \'\') AS "group"'),
      'session.external_id as session_id',
      'session.title',
      'session.starts_at',
      'session.ends_at',
      'session.mode',
      'session.place',
    );
}

/**
 * Sessions of calendars that stand as held though a newer version, taken to its end, left them out: what an import that
 * broke off would leave. What somebody has changed here since is theirs.
 */
export function heldInSpite(raw: RawConnection): string[] {
  return raw
    .prepare(
      `WITH told AS (
         SELECT session.*, run.created_at AS told_at, substr(external_id, 1, length(external_id) - 17) AS base
         FROM session JOIN import_run AS run ON run.id = session.imported_by
         WHERE run.state = 'done' AND substr(external_id, -17, 1) = '/'
       ), latest AS (SELECT base, max(imported_by) AS run, max(told_at) AS at FROM told GROUP BY base)
       SELECT told.external_id FROM told JOIN latest ON latest.base = told.base
       WHERE told.imported_by < latest.run AND told.starts_at > latest.at AND told.cancelled = 0 AND told.removed_at IS NULL
         AND told.by_hand = 0 ORDER BY told.external_id`,
    )
    .pluck()
    .all() as string[];
}

/** Which of some sessions have anything hanging on them: a mark, a row of presence, somebody who checked in. */
export function sessionsInUse(raw: RawConnection, ids: readonly number[]): Set<number> {
  const text = JSON.stringify(ids);
  return new Set(
    raw
      .prepare(
        `SELECT value FROM json_each(?) AS one WHERE EXISTS (SELECT 1 FROM attendance WHERE session_id = one.value)
           OR EXISTS (SELECT 1 FROM presence_row WHERE session_id = one.value)
           OR EXISTS (SELECT 1 FROM check_in WHERE session_id = one.value)`,
      )
      .pluck()
      .all(text) as number[],
  );
}
