/** Trials on past courses and fits that were asked for, and what came of them. */
import type { TrialKind, TrialState } from '@/core/trial/run';
import type { Db } from '../db';
import { staffName } from '../person';
import type { Viewer } from '../scope';

export interface TrialRun {
  id: number;
  kind: TrialKind;
  /** What was asked for, as it came in. */
  asked: Record<string, string>;
  state: TrialState;
  at: number;
  by: string | null;
  ended_at: number | null;
  /** Of a hundred. */
  done: number;
  says: string | null;
}

interface Held {
  id: number;
  kind: TrialKind;
  asked: Record<string, string>;
  owner: string | null;
  lease_until: number;
  tries: number;
}

export async function addTrialRun(
  db: Db,
  run: { kind: TrialKind; asked: Record<string, string>; at: number; staff_id: number | null },
): Promise<number> {
  const [id] = await db('trial_run').insert({ ...run, asked: JSON.stringify(run.asked), state: 'waiting', total: 100 });
  return id;
}

/** How many wait or are worked on. */
export async function openTrialRuns(db: Db): Promise<Held[]> {
  const rows = await db('trial_run')
    .whereIn('state', ['waiting', 'running'])
    .orderBy('id')
    .select('id', 'kind', 'asked', 'owner', 'lease_until', 'tries');
  return rows.map((row) => ({ ...row, asked: JSON.parse(row.asked) }));
}

function runs(db: Db, viewer: Viewer) {
  return db('trial_run as r')
    .leftJoin('staff', 'staff.id', 'r.staff_id')
    .select(
      'r.id',
      'r.kind',
      'r.asked',
      'r.state',
      'r.at',
      'r.ended_at',
      'r.done',
      'r.says',
      db.raw(`${staffName(viewer)} AS "by"`),
    );
}

const readRun = (row: Omit<TrialRun, 'asked'> & { asked: string }): TrialRun => ({
  ...row,
  asked: JSON.parse(row.asked),
});

/** The last ones, the newest first. */
export async function listTrialRuns(db: Db, viewer: Viewer, limit: number): Promise<TrialRun[]> {
  return (await runs(db, viewer).orderBy('r.id', 'desc').limit(limit)).map(readRun);
}

/** One of them with what came of it; null where there is none. */
export async function findTrialRun(
  db: Db,
  viewer: Viewer,
  id: number,
): Promise<(TrialRun & { result: string | null }) | null> {
  const row = await runs(db, viewer).select('r.result').where('r.id', id).first();
  return row ? { ...readRun(row), result: row.result } : null;
}

/**
 * Takes one on, if it is still as it was seen.
 * @param tries how often whoever worked on it has broken down at it
 */
export async function claimTrialRun(
  db: Db,
  seen: Held,
  { owner, lease_until, tries }: { owner: string; lease_until: number; tries: number },
): Promise<boolean> {
  const changed = await db('trial_run')
    .where({ id: seen.id, lease_until: seen.lease_until, tries: seen.tries })
    .whereIn('state', ['waiting', 'running'])
    .update({ state: 'running', owner, lease_until, done: 0, tries });
  return changed === 1;
}

/** Notes how far one is, and keeps it for longer. False when it was cancelled, or taken over. */
export async function keepTrialRun(
  db: Db,
  id: number,
  owner: string,
  { done, lease_until }: { done: number; lease_until: number },
): Promise<boolean> {
  return (await db('trial_run').where({ id, owner, state: 'running' }).update({ done, lease_until })) === 1;
}

/** Ends one that is worked on; what was cancelled meanwhile stays so. */
export async function endTrialRun(
  db: Db,
  id: number,
  owner: string,
  end: { state: TrialState; ended_at: number; result: string | null; says: string | null; done: number },
): Promise<boolean> {
  return (
    (await db('trial_run')
      .where({ id, owner, state: 'running' })
      .update({ ...end, owner: null })) === 1
  );
}

/** Cancels one that has not ended. False where there is none such. */
export async function cancelTrialRun(db: Db, id: number, at: number): Promise<boolean> {
  const changed = await db('trial_run')
    .where({ id })
    .whereIn('state', ['waiting', 'running'])
    .update({ state: 'cancelled', ended_at: at, owner: null });
  return changed === 1;
}
