/** Who checked themselves in, with which device. */
import type { CheckInState } from '@/core/sessions/check-in';
import type { Candidate } from '@/core/sessions/match';
import { candidatesOf } from './presence';
import { prepared, type Db, type RawConnection } from '../db';
import { personColumns } from '../person';
import { enrolmentInScope, type Viewer } from '../scope';
import type { RowOf } from '../tables';

/** A session as its door needs it; without a viewer, since whoever comes has no account. Nothing of it is about a person. */
export type DoorSession = Pick<
  RowOf<'session'>,
  'id' | 'course_id' | 'group_id' | 'title' | 'day' | 'starts_at' | 'ends_at' | 'cancelled' | 'secret'
> & { course_title: string };

export async function sessionForCheckIn(db: Db, sessionId: string): Promise<DoorSession | null> {
  const found = await db('session')
    .join('course', 'course.id', 'session.course_id')
    .where('session.external_id', sessionId)
    .whereNull('session.removed_at')
    .first(
      'session.id',
      'session.course_id',
      'session.group_id',
      'session.title',
      'session.day',
      'session.starts_at',
      'session.ends_at',
      'session.cancelled',
      'session.secret',
      'course.title as course_title',
    );
  return found ?? null;
}

/** Everybody who is expected in a session, by each of their records' ids and addresses. */
export function expectedAt(raw: RawConnection, session: DoorSession): Candidate[] {
  const expected = prepared(
    raw,
    `SELECT e.learner_id FROM live_enrolment e WHERE e.course_id = @course
       AND (@group IS NULL OR e.group_id = @group) AND e.enrolled_day <= @day AND (e.ended_day IS NULL OR e.ended_day >= @day)`,
  )
    .pluck()
    .all({ course: session.course_id, group: session.group_id, day: session.day });
  const ids = new Set(expected as number[]);
  return candidatesOf(raw, session.course_id).filter(({ id }) => ids.has(id));
}

/** How many devices of one network and browser have checked somebody in, the most; what they are is not kept. */
export function mostAlike(raw: RawConnection, sessionId: number): number {
  const found = prepared(
    raw,
    `SELECT count(DISTINCT device) AS devices FROM check_in WHERE session_id = ? AND state <> 'refused' AND origin <> ''
     GROUP BY origin ORDER BY devices DESC LIMIT 1`,
  )
    .pluck()
    .get(sessionId);
  return (found as number | undefined) ?? 0;
}

export function deviceTry(raw: RawConnection, sessionId: number, device: string): { failures: number; until: number } {
  const found = prepared(raw, 'SELECT failures, until FROM check_in_try WHERE session_id = ? AND device = ?').get(
    sessionId,
    device,
  );
  return (found as { failures: number; until: number } | undefined) ?? { failures: 0, until: 0 };
}

export function noteTry(
  raw: RawConnection,
  sessionId: number,
  device: string,
  { failures, until }: { failures: number; until: number },
): void {
  prepared(raw, 'INSERT OR REPLACE INTO check_in_try (session_id, device, failures, until) VALUES (?, ?, ?, ?)').run(
    sessionId,
    device,
    failures,
    until,
  );
}

export function findCheckIn(raw: RawConnection, sessionId: number, learnerId: number): RowOf<'check_in'> | null {
  const found = prepared(raw, 'SELECT * FROM check_in WHERE session_id = ? AND learner_id = ?').get(
    sessionId,
    learnerId,
  );
  return (found as RowOf<'check_in'> | undefined) ?? null;
}

/** Who has checked in with a device; null for nobody. */
export function learnerOfDevice(raw: RawConnection, sessionId: number, device: string): number | null {
  const found = prepared(
    raw,
    "SELECT learner_id FROM check_in WHERE session_id = ? AND device = ? AND state = 'in' LIMIT 1",
  )
    .pluck()
    .get(sessionId, device);
  return (found as number | undefined) ?? null;
}

/** Notes somebody who came; one who was refused before comes anew. */
export function addCheckIn(raw: RawConnection, row: Omit<RowOf<'check_in'>, 'id'>): void {
  prepared(
    raw,
    `INSERT INTO check_in (session_id, learner_id, device, at, state, origin)
     VALUES (@session_id, @learner_id, @device, @at, @state, @origin)
     ON CONFLICT (session_id, learner_id) DO UPDATE
     SET device = excluded.device, at = excluded.at, state = excluded.state, origin = excluded.origin`,
  ).run(row);
}

export function setCheckInState(raw: RawConnection, sessionId: number, learnerId: number, state: CheckInState): void {
  prepared(raw, 'UPDATE check_in SET state = ? WHERE session_id = ? AND learner_id = ?').run(
    state,
    sessionId,
    learnerId,
  );
}

/** Everybody in scope who came to a session's door, the last first. */
export async function checkInPeople(
  db: Db,
  viewer: Viewer,
  sessionId: number,
): Promise<{ id: number; learner_id: string; name: string; at: number; state: CheckInState }[]> {
  const { id, name } = personColumns(viewer);
  return db('check_in as c')
    .join('session as s', 's.id', 'c.session_id')
    .join('enrolment as e', (on) => on.on('e.learner_id', 'c.learner_id').andOn('e.course_id', 's.course_id'))
    .join('learner', 'learner.id', 'c.learner_id')
    .where('c.session_id', sessionId)
    .where(enrolmentInScope(viewer, 'e'))
    .orderBy('c.at', 'desc')
    .select('learner.id', db.raw(`${id} AS learner_id`), db.raw(`${name} AS name`), 'c.at', 'c.state');
}
