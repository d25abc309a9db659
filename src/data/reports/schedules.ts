/** What is sent by itself: when next, in whose name, to whom; and every sending there was. */
import type { Rhythm } from '@/core/reports/schedule';
import { without } from '@/core/without';
import type { Db } from '../db';
import { freeText, staffName } from '../person';
import type { Viewer } from '../scope';
import type { RowOf } from '../tables';

export type Schedule = Omit<RowOf<'report_schedule'>, 'rhythm'> & {
  rhythm: Rhythm;
  /** The report's name; null for the Monday letter. */
  name: string | null;
  to: { id: number; name: string; email: string; ended_at: number | null }[];
};

async function withRecipients(
  db: Db,
  name: string,
  rows: readonly (RowOf<'report_schedule'> & { name: string | null })[],
): Promise<Schedule[]> {
  const people = await db('report_schedule_to as t')
    .join('staff', 'staff.id', 't.staff_id')
    .whereIn(
      't.schedule_id',
      rows.map(({ id }) => id),
    )
    .orderByRaw('staff.family_name, staff.given_name, staff.id')
    .select('t.schedule_id', 'staff.id', db.raw(`${name} AS name`), 'staff.email', 'staff.ended_at');
  return rows.map((row) => ({
    ...row,
    rhythm: JSON.parse(row.rhythm) as Rhythm,
    to: people
      .filter((one: { schedule_id: number }) => one.schedule_id === row.id)
      .map((one: Schedule['to'][number] & { schedule_id: number }) => without(one, 'schedule_id')),
  }));
}

const all = (db: Db, name: string) =>
  db('report_schedule')
    .leftJoin('report', 'report.id', 'report_schedule.report_id')
    .select('report_schedule.*', db.raw(`${name} AS name`));

/** What somebody has set up, by the time of its next sending; stopped ones last. */
export async function schedulesOf(db: Db, viewer: Viewer): Promise<Schedule[]> {
  const rows = await all(db, freeText(viewer, 'report.name'))
    .where('report_schedule.staff_id', viewer.staffId)
    .orderByRaw('report_schedule.stopped_at IS NOT NULL, report_schedule.next_at, report_schedule.id');
  return withRecipients(db, staffName(viewer), rows);
}

/** What is to be sent by now, the longest due first. */
export async function dueSchedules(db: Db, now: number): Promise<Schedule[]> {
  const rows = await all(db, 'report.name')
    .whereNull('report_schedule.stopped_at')
    .where('report_schedule.next_at', '<=', now)
    .orderBy('report_schedule.next_at')
    .limit(20);
  return withRecipients(db, "trim(staff.given_name || ' ' || staff.family_name)", rows);
}

export type NewSchedule = Pick<
  RowOf<'report_schedule'>,
  'report_id' | 'kind' | 'staff_id' | 'format' | 'layout' | 'next_at' | 'created_at'
> & {
  rhythm: Rhythm;
};

export async function addSchedule(trx: Db, schedule: NewSchedule, to: readonly number[]): Promise<number> {
  const [row] = await trx('report_schedule')
    .insert({ ...schedule, rhythm: JSON.stringify(schedule.rhythm) })
    .returning('id');
  if (to.length > 0) await trx('report_schedule_to').insert(to.map((staff_id) => ({ schedule_id: row.id, staff_id })));
  return row.id;
}

/** Takes a schedule of somebody's away; false when it is none of theirs. */
export async function removeSchedule(trx: Db, staffId: number, id: number): Promise<boolean> {
  return (await trx('report_schedule').where({ id, staff_id: staffId }).delete()) === 1;
}

/** Moves a schedule on from a time that was seen; false where somebody else has. */
export async function moveOn(
  trx: Db,
  { id, next_at }: { id: number; next_at: number },
  next: number,
): Promise<boolean> {
  return (await trx('report_schedule').where({ id, next_at }).whereNull('stopped_at').update({ next_at: next })) === 1;
}

/** Schedules whose next time lies further off than their rhythm has it: the clock was ahead when it was worked out. */
export async function runningSchedules(db: Db): Promise<{ id: number; next_at: number; rhythm: Rhythm }[]> {
  const rows = await db('report_schedule').whereNull('stopped_at').select('id', 'next_at', 'rhythm');
  return rows.map((row) => ({ ...row, rhythm: JSON.parse(row.rhythm) as Rhythm }));
}

export async function stopSchedule(trx: Db, id: number, at: number, why: string): Promise<void> {
  await trx('report_schedule').where({ id }).update({ stopped_at: at, stopped_why: why });
}

export type Sending = RowOf<'report_sending'>;
export type NewSending = Omit<Sending, 'id' | 'state' | 'tries' | 'next_try_at' | 'error'>;

export async function addSendings(trx: Db, sendings: readonly NewSending[]): Promise<void> {
  for (const sending of sendings) await trx('report_sending').insert({ ...sending, state: 'waiting' });
}

export type WaitingSending = Sending & {
  to_name: string;
  to_email: string;
  by_name: string;
  by_email: string;
  /** Of the file that goes with it. */
  run_format: RowOf<'report_run'>['format'] | null;
};

/** Mails that wait to be sent, the oldest first. */
export async function waitingSendings(db: Db, real: number): Promise<WaitingSending[]> {
  return db('report_sending as s')
    .join('staff as receiver', 'receiver.id', 's.to_id')
    .join('staff as sender', 'sender.id', 's.by_id')
    .leftJoin('report_run as run', 'run.id', 's.run_id')
    .where('s.state', 'waiting')
    .where('s.next_try_at', '<=', real)
    .orderBy('s.id')
    .limit(20)
    .select(
      's.*',
      db.raw("trim(receiver.given_name || ' ' || receiver.family_name) AS to_name"),
      'receiver.email as to_email',
      db.raw("trim(sender.given_name || ' ' || sender.family_name) AS by_name"),
      'sender.email as by_email',
      'run.format as run_format',
    );
}

export async function noteSending(
  db: Db,
  id: number,
  changes: Partial<Pick<Sending, 'state' | 'tries' | 'next_try_at' | 'error' | 'at' | 'body' | 'run_id'>>,
): Promise<void> {
  await db('report_sending').where({ id }).update(changes);
}

export interface SendingShown {
  id: number;
  name: string;
  to: string;
  due_at: number;
  at: number;
  state: Sending['state'];
  error: string | null;
}

/** What was sent in somebody's name, newest first. */
export async function sendingsBy(db: Db, viewer: Viewer, limit: number): Promise<SendingShown[]> {
  return db('report_sending as s')
    .join('staff', 'staff.id', 's.to_id')
    .where('s.by_id', viewer.staffId)
    .orderBy('s.id', 'desc')
    .limit(limit)
    .select(
      's.id',
      db.raw(`${freeText(viewer, 's.name')} AS name`),
      db.raw(`${staffName(viewer)} AS "to"`),
      's.due_at',
      's.at',
      's.state',
      's.error',
    );
}
