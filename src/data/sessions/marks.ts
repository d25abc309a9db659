/** The marks of rolls, with every change kept. */
import type { Mark, MarkSource } from '@/core/sessions/attendance';
import type { RowOf } from '../tables';
import { prepared, type Db, type RawConnection } from '../db';
import { staleSessions } from './stale-sessions';

export type MarkRow = RowOf<'mark'>;

/** The marks that a roll gives, in their order; ended ones too where they still stand in some record. */
export async function listMarks(db: Db, all = false): Promise<MarkRow[]> {
  return db('mark')
    .modify((query) => {
      if (!all) query.whereNull('ended_at');
    })
    .orderBy(['position', 'id']);
}

/** A mark as the computation knows it. */
export function asMark({ code, label, credit, counts }: MarkRow): Mark {
  return { code, label, credit, counts: counts === 1 };
}

/** A mark to be set, or taken away where it is null. */
export interface NewMark {
  session_id: number;
  learner_id: number;
  mark: string | null;
  remark: string;
  source: MarkSource;
  staff_id: number | null;
  at: number;
}

export type StoredMark = RowOf<'attendance'>;

/** The mark that somebody has in a session. */
export function findMark(raw: RawConnection, sessionId: number, learnerId: number): StoredMark | null {
  const found = prepared(raw, 'SELECT * FROM attendance WHERE session_id = ? AND learner_id = ?').get(
    sessionId,
    learnerId,
  );
  return (found as StoredMark | undefined) ?? null;
}

/** Sets a mark and keeps the change. Returns whether anything changed. */
export function setMark(raw: RawConnection, next: NewMark): boolean {
  const { session_id, learner_id, mark, remark, source, staff_id, at } = next;
  const old = findMark(raw, session_id, learner_id);
  if ((old?.mark ?? null) === mark && (old?.remark ?? '') === remark && (old === null || old.source === source))
    return false;
  prepared(
    raw,
    `INSERT INTO attendance_change (session_id, learner_id, at, staff_id, source, old_mark, mark, old_remark, remark)
     VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)`,
  ).run(session_id, learner_id, at, staff_id, source, old?.mark ?? null, mark, old?.remark ?? '', remark);
  if (mark === null) {
    prepared(raw, 'DELETE FROM attendance WHERE session_id = ? AND learner_id = ?').run(session_id, learner_id);
    return true;
  }
  prepared(
    raw,
    `INSERT INTO attendance (session_id, learner_id, mark, remark, source, staff_id, at)
     VALUES (@session_id, @learner_id, @mark, @remark, @source, @staff_id, @at)
     ON CONFLICT (session_id, learner_id) DO UPDATE SET mark = excluded.mark, remark = excluded.remark, source = excluded.source,
       staff_id = excluded.staff_id, at = excluded.at, differs = NULL`,
  ).run({ session_id, learner_id, mark, remark, source, staff_id, at });
  return true;
}

/** Notes that a session's roll is taken; the first time stays. From then on nobody's presence counts in its place. */
export function noteRoll(raw: RawConnection, sessionId: number, at: number, staffId: number | null): void {
  const { changes } = prepared(raw, 'UPDATE session SET roll_at = ?, roll_by = ? WHERE id = ? AND roll_at IS NULL').run(
    at,
    staffId,
    sessionId,
  );
  if (changes > 0) staleSessions(raw, [sessionId]);
}

/** The number of the last change of each learner's mark in a session: who changes one says which they saw. */
export function lastChanges(raw: RawConnection, sessionId: number): Map<number, number> {
  return new Map(
    prepared(raw, 'SELECT learner_id, max(id) FROM attendance_change WHERE session_id = ? GROUP BY learner_id')
      .raw()
      .all(sessionId) as [number, number][],
  );
}

/** Takes back that a roll was taken, where no mark is left. */
export function noteNoRoll(raw: RawConnection, sessionId: number): void {
  const { changes } = prepared(
    raw,
    `UPDATE session SET roll_at = NULL, roll_by = NULL WHERE id = ?
       AND NOT EXISTS (SELECT 1 FROM attendance WHERE session_id = session.id AND source <> 'check_in')`,
  ).run(sessionId);
  if (changes > 0) staleSessions(raw, [sessionId]);
}

/** A mark set by hand stays as it is beside a file's: the difference is settled. */
export function dropDifference(raw: RawConnection, id: number): void {
  prepared(raw, 'UPDATE attendance SET differs = NULL WHERE id = ?').run(id);
}

export type MarkValues = Pick<MarkRow, 'label' | 'credit' | 'counts'>;

export async function addMark(trx: Db, code: string, values: MarkValues): Promise<void> {
  const [{ last }] = await trx.from('mark').select(trx.raw('ifnull(max(position), 0) AS last'));
  await trx('mark').insert({ ...values, code, position: last + 1 });
}

export async function changeMark(
  trx: Db,
  code: string,
  values: Partial<MarkValues & Pick<MarkRow, 'ended_at'>>,
): Promise<boolean> {
  return (await trx('mark').where({ code }).update(values)) > 0;
}

export async function keepSessionRule(trx: Db, row: RowOf<'session_rule'>): Promise<void> {
  await trx('session_rule').insert(row).onConflict('course_id').merge();
}
