/** What learners' marks and presence come to: of one session, and over time. */
import type { MarkSource } from '@/core/sessions/attendance';
import type { SessionRule } from '@/core/sessions/outcome';
import { groupBy } from '@/core/group-by';
import { setImmediate as breathe } from 'node:timers/promises';
import { prepared, withRaw, type Db } from '../db';
import type { RowOf } from '../tables';
import { personColumns, staffName, staffWords } from '../person';
import {
  courseRowInScope,
  enrolmentInSegment,
  enrolmentInScope,
  learnerOf,
  type ViewScope,
  type Viewer,
} from '../scope';
import { idList } from '../view';
import { EXPECTED } from './sessions';

/** One learner in one session. */
export interface RollRow {
  id: number;
  learner_id: string;
  name: string;
  group: string | null;
  email: string | null;
  /** Is of another group, and was there nevertheless. */
  is_guest: number;
  mark: string | null;
  remark: string;
  source: MarkSource | null;
  marked_at: number | null;
  marked_by: string | null;
  marked_by_id: number | null;
  /** Another mark, of a file that came after this one was set by hand. */
  differs: string | null;
  ms: number | null;
  first_in: number | null;
  last_out: number | null;
  reconnects: number | null;
  longest_gap_ms: number | null;
  is_open: number | null;
  checked_in_at: number | null;
}

/**
 * Everybody of a session whom the viewer sees, by name: those expected, and those of the course who have a mark or were
 * seen there.
 */
export async function rollOf(db: Db, { viewer, segment }: ViewScope, sessionId: number): Promise<RollRow[]> {
  const { id, name, sort, email } = personColumns(viewer);
  return db('session as s')
    .join('enrolment as e', (on) => on.on('e.course_id', 's.course_id').andOn(db.raw("e.status <> 'merged'")))
    .join('learner', 'learner.id', 'e.learner_id')
    .leftJoin('course_group as g', 'g.id', 'e.group_id')
    .leftJoin('attendance as a', (on) => on.on('a.session_id', 's.id').andOn('a.learner_id', 'e.learner_id'))
    .leftJoin('staff', 'staff.id', 'a.staff_id')
    .leftJoin('presence as p', (on) => on.on('p.session_id', 's.id').andOn('p.learner_id', 'e.learner_id'))
    .leftJoin('check_in as c', (on) =>
      on.on('c.session_id', 's.id').andOn('c.learner_id', 'e.learner_id').andOn(db.raw("c.state <> 'refused'")),
    )
    .where('s.id', sessionId)
    .where(enrolmentInScope(viewer, 'e'))
    .where(learnerOf(segment, 'e.learner_id'))
    .whereRaw(`((${EXPECTED}) OR a.id IS NOT NULL OR p.learner_id IS NOT NULL OR c.id IS NOT NULL)`)
    .orderByRaw(`${sort}, learner.id`)
    .select(
      'learner.id',
      db.raw(`${id} AS learner_id`),
      db.raw(`${name} AS name`),
      'g.name as group',
      db.raw(`${email} AS email`),
      db.raw(`NOT (${EXPECTED}) AS is_guest`),
      'a.mark',
      db.raw(`${staffWords(viewer, 'a.staff_id', 'a.remark')} AS remark`),
      'a.source',
      'a.at as marked_at',
      db.raw(`${staffName(viewer)} AS marked_by`),
      'a.staff_id as marked_by_id',
      'a.differs',
      'p.ms',
      'p.first_in',
      'p.last_out',
      'p.reconnects',
      'p.longest_gap_ms',
      'p.is_open',
      'c.at as checked_in_at',
    );
}

/** Where one suggested mark ends in a course, and until when a check-in is in time; null for the usual. */
export async function sessionRule(db: Db, courseId: number): Promise<SessionRule | null> {
  const [row] = await db('session_rule').where('course_id', courseId);
  if (!row) return null;
  return {
    absentUnder: row.absent_under,
    presentFrom: row.present_from,
    graceMinutes: row.grace_minutes,
    lateAfter: row.late_after,
  };
}

/** One learner's mark in one session that counts: held, ended, with a roll, and enrolled at its start. */
export interface MarkInTime {
  session_id: number;
  course_id: number;
  starts_at: number;
  mark: string;
}

/** Which sessions are counted over time. */
export interface AttendanceSpan {
  from?: number;
  to?: number;
  /** The instant that "now" is: sessions that have ended by it. */
  now: number;
  /** Whose; everybody's in view when left out. */
  learnerIds?: readonly number[];
}

/** Learners whose marks are read at a time, after which the server sees to others. */
const AT_ONCE = 500;

/**
 * Every mark in view that counts for somebody's record, learner by learner, each one's in time order. A term of a large
 * programme is half a million of them: sessions and enrolments are read once, and the marks piece by piece.
 */
export async function* marksInTime(
  db: Db,
  { viewer, segment }: ViewScope,
  { from, to, now, learnerIds }: AttendanceSpan,
): AsyncGenerator<{ learnerId: number; marks: MarkInTime[] }> {
  const sessions: Pick<RowOf<'session'>, 'id' | 'course_id' | 'day' | 'starts_at'>[] = await db('session as s')
    .whereRaw('s.cancelled = 0 AND s.removed_at IS NULL AND s.roll_at IS NOT NULL')
    .where('s.ends_at', '<=', now)
    .modify((asked) => {
      if (from !== undefined) asked.where('s.starts_at', '>=', from);
      if (to !== undefined) asked.where('s.starts_at', '<', to);
    })
    .select('s.id', 's.course_id', 's.day', 's.starts_at');
  const held = new Map(sessions.map((row) => [row.id, row]));
  const enrolments: Pick<RowOf<'enrolment'>, 'learner_id' | 'course_id' | 'enrolled_day' | 'ended_day'>[] = await db(
    'enrolment as e',
  )
    .where(enrolmentInScope(viewer, 'e'))
    .where(enrolmentInSegment(segment, 'e'))
    .modify((asked) => {
      if (learnerIds) asked.whereIn('e.learner_id', idList(db, learnerIds));
    })
    .orderBy('e.learner_id')
    .select('e.learner_id', 'e.course_id', 'e.enrolled_day', 'e.ended_day');
  const rowsByLearner = [...groupBy(enrolments, (row) => row.learner_id)];
  for (let start = 0; start < rowsByLearner.length; start += AT_ONCE) {
    const some = rowsByLearner.slice(start, start + AT_ONCE);
    const ids = JSON.stringify(some.map(([id]) => id));
    const rows = await withRaw(
      db,
      (raw) =>
        prepared(
          raw,
          'SELECT learner_id, session_id, mark FROM attendance WHERE learner_id IN (SELECT value FROM json_each(?))',
        )
          .raw()
          .all(ids) as [number, number, string][],
    );
    const byLearner = groupBy(rows, ([learnerId]) => learnerId);
    for (const [learnerId, courses] of some) {
      const marks = (byLearner.get(learnerId) ?? []).flatMap(([, session_id, mark]): MarkInTime[] => {
        const session = held.get(session_id);
        if (!session) return [];
        const { course_id, day, starts_at } = session;
        const isIn = courses.some(
          (course) =>
            course.course_id === course_id &&
            course.enrolled_day <= day &&
            (course.ended_day === null || course.ended_day >= day),
        );
        return isIn ? [{ session_id, course_id, starts_at, mark }] : [];
      });
      marks.sort((a, b) => a.starts_at - b.starts_at || a.session_id - b.session_id);
      yield { learnerId, marks };
    }
    await breathe();
  }
}

/** One session in a learner's record. */
export interface OwnSession {
  id: number;
  session_id: string;
  course: string;
  course_id: number;
  title: string;
  day: number;
  starts_at: number;
  ends_at: number;
  cancelled: number;
  reason: string;
  roll_at: number | null;
  item_id: number | null;
  mark: string | null;
  remark: string;
  ms: number | null;
  first_in: number | null;
  last_out: number | null;
  reconnects: number | null;
  longest_gap_ms: number | null;
  is_open: number | null;
  checked_in_at: number | null;
  credit: number | null;
  counts: number | null;
  is_provisional: number | null;
}

/** The sessions that a learner was expected in or came to, those of courses the viewer sees them in, in time order. */
export async function sessionsOfLearners(
  db: Db,
  viewer: Viewer,
  learnerIds: readonly number[],
  { from, to, courseId }: { from: number; to: number; courseId?: number },
): Promise<(OwnSession & { learner: number })[]> {
  return db('enrolment as e')
    .join('session as s', 's.course_id', 'e.course_id')
    .join('course', 'course.id', 's.course_id')
    .leftJoin('attendance as a', (on) => on.on('a.session_id', 's.id').andOn('a.learner_id', 'e.learner_id'))
    .leftJoin('presence as p', (on) => on.on('p.session_id', 's.id').andOn('p.learner_id', 'e.learner_id'))
    .leftJoin('check_in as c', (on) =>
      on.on('c.session_id', 's.id').andOn('c.learner_id', 'e.learner_id').andOn(db.raw("c.state <> 'refused'")),
    )
    .leftJoin('session_outcome as o', (on) => on.on('o.session_id', 's.id').andOn('o.enrolment_id', 'e.id'))
    .whereIn('e.learner_id', idList(db, learnerIds))
    .where(courseRowInScope(db, viewer, 'e'))
    .whereNull('s.removed_at')
    .where('s.starts_at', '>=', from)
    .where('s.starts_at', '<', to)
    .whereRaw(`((${EXPECTED}) OR a.id IS NOT NULL OR p.learner_id IS NOT NULL OR c.id IS NOT NULL)`)
    .modify((query) => {
      if (courseId !== undefined) query.where('e.course_id', courseId);
    })
    .orderBy(['e.learner_id', 's.starts_at', 's.id'])
    .select(
      'e.learner_id as learner',
      's.id',
      's.external_id as session_id',
      'course.code as course',
      's.course_id',
      's.title',
      's.day',
      's.starts_at',
      's.ends_at',
      's.cancelled',
      's.reason',
      's.roll_at',
      's.item_id',
      'a.mark',
      db.raw(`${staffWords(viewer, 'a.staff_id', 'a.remark')} AS remark`),
      'p.ms',
      'p.first_in',
      'p.last_out',
      'p.reconnects',
      'p.longest_gap_ms',
      'p.is_open',
      'c.at as checked_in_at',
      'o.credit',
      'o.counts',
      'o.is_provisional',
    );
}

/** The next session of each course and group after an instant. */
export async function nextSessions(db: Db, courseIds: readonly number[], after: number) {
  return (
    (await db('session as s')
      .whereIn('s.course_id', idList(db, courseIds))
      .where('s.starts_at', '>', after)
      .whereRaw('s.cancelled = 0 AND s.removed_at IS NULL')
      .groupBy('s.course_id', 's.group_id')
      // With min(), SQLite gives the other columns of the row that has it.
      .select('s.course_id', 's.group_id', 's.title', 's.place', db.raw('min(s.starts_at) AS starts_at'))) as {
      course_id: number;
      group_id: number | null;
      title: string;
      place: string;
      starts_at: number;
    }[]
  );
}

/** The last changes of a session's marks, newest first, of learners in scope. */
export async function rollChanges(db: Db, viewer: Viewer, sessionId: number, limit: number) {
  const { name } = personColumns(viewer);
  return (await db('attendance_change as c')
    .join('session as s', 's.id', 'c.session_id')
    .join('enrolment as e', (on) => on.on('e.learner_id', 'c.learner_id').andOn('e.course_id', 's.course_id'))
    .join('learner', 'learner.id', 'c.learner_id')
    .leftJoin('staff', 'staff.id', 'c.staff_id')
    .where('c.session_id', sessionId)
    .where(enrolmentInScope(viewer, 'e'))
    .orderBy('c.id', 'desc')
    .limit(limit)
    .select(
      'c.id',
      'c.at',
      'c.source',
      'c.old_mark',
      'c.mark',
      db.raw(`${staffWords(viewer, 'c.staff_id', 'c.remark')} AS remark`),
      db.raw(`${name} AS name`),
      db.raw(`${staffName(viewer)} AS "by"`),
    )) as {
    id: number;
    at: number;
    source: MarkSource;
    old_mark: string | null;
    mark: string | null;
    remark: string;
    name: string;
    by: string | null;
  }[];
}
