/** Changing the timetable: every change is kept with the rows as they were, which is its undo. */
import type { Timed } from '@/core/sessions/timetable';
import { prepared, type Db, type RawConnection } from '../db';
import { staffName } from '../person';
import { sessionInScope, type Viewer } from '../scope';
import { idList } from '../view';
import type { RowOf } from '../tables';
import { derivePresenceAnew } from './presence';
import { linkSessionItems } from './session-items';
import { staleSessions } from './stale-sessions';

export type StoredSession = RowOf<'session'>;

/** What is changed of a session. */
export type SessionChange = Partial<
  Pick<
    StoredSession,
    | 'title'
    | 'day'
    | 'starts_at'
    | 'ends_at'
    | 'mode'
    | 'place'
    | 'instructor_id'
    | 'group_id'
    | 'cancelled'
    | 'reason'
    | 'series_id'
    | 'series_day'
    | 'by_hand'
    | 'removed_at'
  >
>;

export type NewSession = Pick<
  StoredSession,
  | 'external_id'
  | 'course_id'
  | 'group_id'
  | 'series_id'
  | 'series_day'
  | 'title'
  | 'day'
  | 'starts_at'
  | 'ends_at'
  | 'mode'
  | 'place'
  | 'instructor_id'
  | 'secret'
>;

/** Groups of a course. */
export async function groupsOfCourse(db: Db, courseId: number): Promise<{ id: number; name: string }[]> {
  return db('course_group').where('course_id', courseId).orderBy('name').select('id', 'name');
}

/** Staff who may give the sessions of some courses: those with a scope in one, and whoever sees everyone. */
export async function instructorsOf(
  db: Db,
  viewer: Viewer,
  courseIds: readonly number[],
): Promise<{ id: number; name: string }[]> {
  const rows = await db('staff')
    .leftJoin('staff_scope as s', 's.staff_id', 'staff.id')
    .leftJoin('course_group as g', 'g.id', 's.group_id')
    .whereNull('staff.ended_at')
    .whereIn('staff.role', ['instructor', 'mentor', 'lead'])
    .where((any) => any.whereIn('s.course_id', courseIds).orWhereIn('g.course_id', courseIds).orWhere('s.kind', 'all'))
    .groupBy('staff.id')
    .orderByRaw("staff.role <> 'instructor', staff.family_name, staff.id")
    .select('staff.id', db.raw(`${staffName(viewer)} AS name`));
  return rows as unknown as { id: number; name: string }[];
}

export function storedSession(raw: RawConnection, id: number): StoredSession | null {
  return (prepared(raw, 'SELECT * FROM session WHERE id = ?').get(id) as StoredSession | undefined) ?? null;
}

/** A series' sessions that are there, in the order of their days. */
export function sessionsOfSeries(raw: RawConnection, seriesId: number): StoredSession[] {
  return prepared(raw, 'SELECT * FROM session WHERE series_id = ? AND removed_at IS NULL ORDER BY series_day').all(
    seriesId,
  ) as StoredSession[];
}

export function addSeries(raw: RawConnection, row: Omit<RowOf<'session_series'>, 'id'>): number {
  return Number(
    prepared(
      raw,
      'INSERT INTO session_series (course_id, group_id, rule, made_by, created_at) VALUES (@course_id, @group_id, @rule, @made_by, @created_at)',
    ).run(row).lastInsertRowid,
  );
}

export function seriesById(raw: RawConnection, id: number): RowOf<'session_series'> | null {
  return (
    (prepared(raw, 'SELECT * FROM session_series WHERE id = ?').get(id) as RowOf<'session_series'> | undefined) ?? null
  );
}

function setRule(raw: RawConnection, id: number, rule: string): void {
  prepared(raw, 'UPDATE session_series SET rule = ? WHERE id = ?').run(rule, id);
}

/** Breaks of a course, first and last day of each. */
export function breaksOf(raw: RawConnection, courseId: number): [from: number, to: number][] {
  return prepared(raw, 'SELECT from_day, to_day FROM course_break WHERE course_id = ? ORDER BY from_day')
    .raw()
    .all(courseId) as [number, number][];
}

/** An id that no session has: the course, the group, and a number. */
export function openNewIds(raw: RawConnection, prefix: string): () => string {
  const taken = new Set(
    prepared(raw, `SELECT external_id FROM session WHERE external_id > @prefix AND external_id < @prefix || '~'`)
      .pluck()
      .all({ prefix }) as string[],
  );
  let number = taken.size;
  return () => {
    do number += 1;
    while (taken.has(`${prefix}${String(number).padStart(2, '0')}`));
    return `${prefix}${String(number).padStart(2, '0')}`;
  };
}

/** One change of the timetable, with what it takes to undo it. */
export class TimetableChange {
  private readonly before: StoredSession[] = [];
  private readonly added: number[] = [];
  private readonly rules: { id: number; rule: string }[] = [];

  constructor(
    private readonly raw: RawConnection,
    private readonly by: { staff_id: number | null; at: number },
  ) {}

  add(row: NewSession): number {
    const { lastInsertRowid } = prepared(
      this.raw,
      `INSERT INTO session (external_id, course_id, group_id, series_id, series_day, title, day, starts_at, ends_at, mode, place,
         instructor_id, secret, changed_at)
       VALUES (@external_id, @course_id, @group_id, @series_id, @series_day, @title, @day, @starts_at, @ends_at, @mode, @place,
         @instructor_id, @secret, @changed_at)`,
    ).run({ ...row, changed_at: this.by.at });
    this.added.push(Number(lastInsertRowid));
    return Number(lastInsertRowid);
  }

  change(session: StoredSession, changes: SessionChange): void {
    this.before.push(session);
    // From the day it had, as well as from the one it will have.
    staleSessions(this.raw, [session.id]);
    write(this.raw, session.id, { ...changes, sequence: session.sequence + 1, changed_at: this.by.at });
  }

  rule(id: number, rule: string): void {
    const old = seriesById(this.raw, id);
    if (old) this.rules.push({ id, rule: old.rule });
    setRule(this.raw, id, rule);
  }

  /** Keeps the change; returns its number, by which it is undone. */
  keep(what: string): number {
    const touched = [...this.added, ...this.before.map(({ id }) => id)];
    settle(this.raw, touched);
    const record = JSON.stringify({ before: this.before, added: this.added, rules: this.rules });
    return Number(
      prepared(this.raw, 'INSERT INTO session_change (staff_id, at, what, before) VALUES (?, ?, ?, ?)').run(
        this.by.staff_id,
        this.by.at,
        what,
        record,
      ).lastInsertRowid,
    );
  }
}

const KEPT = [
  'group_id',
  'series_id',
  'series_day',
  'title',
  'day',
  'starts_at',
  'ends_at',
  'mode',
  'place',
  'instructor_id',
  'cancelled',
  'reason',
  'by_hand',
  'removed_at',
] as const;

function write(raw: RawConnection, id: number, values: Partial<StoredSession>): void {
  const names = Object.keys(values);
  prepared(raw, `UPDATE session SET ${names.map((name) => `${name} = @${name}`).join(', ')} WHERE id = @id`).run({
    ...values,
    id,
  });
}

/** What hangs on the times and courses of some sessions is made anew. */
function settle(raw: RawConnection, ids: readonly number[]): void {
  const courses = prepared(raw, 'SELECT DISTINCT course_id FROM session WHERE id IN (SELECT value FROM json_each(?))')
    .pluck()
    .all(JSON.stringify(ids)) as number[];
  for (const course of courses) linkSessionItems(raw, course);
  derivePresenceAnew(raw, ids);
  staleSessions(raw, ids);
}

interface ChangeRecord {
  before: StoredSession[];
  added: number[];
  rules: { id: number; rule: string }[];
}

/** A change that has not been undone; null for none. */
export function findChange(raw: RawConnection, id: number): { staff_id: number | null; record: ChangeRecord } | null {
  const found = prepared(raw, 'SELECT staff_id, before FROM session_change WHERE id = ? AND undone_at IS NULL').get(
    id,
  ) as { staff_id: number | null; before: string } | undefined;
  return found ? { staff_id: found.staff_id, record: JSON.parse(found.before) as ChangeRecord } : null;
}

/** Puts back what a change changed, and takes away what it added where nothing hangs on it by now. */
export function undoChange(raw: RawConnection, id: number, record: ChangeRecord, inUse: Set<number>, at: number): void {
  staleSessions(
    raw,
    record.before.map((one) => one.id),
  );
  for (const old of record.before) {
    const now = storedSession(raw, old.id)!;
    const kept = Object.fromEntries(KEPT.map((name) => [name, old[name]]));
    write(raw, old.id, { ...kept, sequence: now.sequence + 1, changed_at: at });
  }
  for (const added of record.added) if (!inUse.has(added)) write(raw, added, { removed_at: at, changed_at: at });
  for (const { id: series, rule } of record.rules) setRule(raw, series, rule);
  settle(raw, [...record.added, ...record.before.map((one) => one.id)]);
  prepared(raw, 'UPDATE session_change SET undone_at = ? WHERE id = ?').run(at, id);
}

/** No session is longer than this, in ms: one that began earlier is over. */
const LONGEST = 7 * 86_400_000;

interface InTheWay extends Timed {
  title: string;
  course: string;
  group: string | null;
  isSeen: boolean;
}

/**
 * Sessions that may be in the way of some: of their courses and instructors, at about their times. An instructor has sessions
 * that a colleague does not see: those are told by their time alone.
 */
export async function sessionsInTheWay(db: Db, viewer: Viewer, of: readonly Timed[]): Promise<InTheWay[]> {
  if (of.length === 0) return [];
  const rows: Omit<InTheWay, 'isSeen'>[] = await db('session')
    .join('course', 'course.id', 'session.course_id')
    .leftJoin('course_group', 'course_group.id', 'session.group_id')
    .whereNull('session.removed_at')
    .where('session.cancelled', 0)
    .where('session.starts_at', '<', Math.max(...of.map((one) => one.ends_at)))
    .where('session.starts_at', '>', Math.min(...of.map((one) => one.starts_at)) - LONGEST)
    .where((any) => {
      any.whereIn('session.course_id', [...new Set(of.map((one) => one.course_id))]);
      any.orWhereIn('session.instructor_id', [...new Set(of.flatMap((one) => one.instructor_id ?? []))]);
    })
    .orderBy('session.starts_at')
    .select('session.*', 'course.code as course', 'course_group.name as group');
  const ids = rows.map(({ id }) => id);
  const seen = new Set(
    await db('session').whereIn('session.id', idList(db, ids)).where(sessionInScope(db, viewer)).pluck('session.id'),
  );
  return rows.map((row) => ({ ...row, isSeen: seen.has(row.id) }));
}
