/** Long reports that are made beside the pages: who asked, how far, and whose turn it is. */
import type { ReportDefinition } from '@/core/reports/definition';
import type { Db } from '../db';
import type { RowOf } from '../tables';
import type { RunState } from './tables';

export type ReportRun = Omit<RowOf<'report_run'>, 'definition'> & { definition: ReportDefinition };

const asRun = (row: RowOf<'report_run'>): ReportRun => ({ ...row, definition: JSON.parse(row.definition) });

export type NewRun = Pick<
  ReportRun,
  'report_id' | 'name' | 'definition' | 'format' | 'layout' | 'staff_id' | 'names_hidden' | 'total' | 'created_at'
> & {
  /** Whoever makes it at once; it waits where nobody does. */
  owner?: string;
  lease_until?: number;
};

export async function addRun(db: Db, run: NewRun): Promise<number> {
  const [row] = await db('report_run')
    .insert({ ...run, definition: JSON.stringify(run.definition), state: run.owner ? 'running' : 'waiting' })
    .returning('id');
  return row.id;
}

/** A run of somebody's own; a program's are those of nobody. */
export async function findRunOf(db: Db, staffId: number, id: number): Promise<ReportRun | null> {
  const row = await db('report_run')
    .where({ id, staff_id: staffId || null })
    .first();
  return row ? asRun(row) : null;
}

/** Somebody's runs, newest first. */
export async function runsOf(db: Db, staffId: number, limit: number): Promise<ReportRun[]> {
  const rows = await db('report_run')
    .where({ staff_id: staffId || null })
    .orderBy('id', 'desc')
    .limit(limit);
  return rows.map(asRun);
}

/** Runs that wait or are worked on, oldest first. */
export async function openReportRuns(db: Db): Promise<ReportRun[]> {
  const rows = await db('report_run').whereIn('state', ['waiting', 'running']).orderBy('id');
  return rows.map(asRun);
}

/** Takes a run as it was seen; false where somebody else has. */
export async function claimReportRun(
  db: Db,
  { id, owner, lease_until }: Pick<ReportRun, 'id' | 'owner' | 'lease_until'>,
  claim: { owner: string; lease_until: number },
): Promise<boolean> {
  const claimed = await db('report_run')
    .where({ id, owner, lease_until })
    .whereIn('state', ['waiting', 'running'])
    .update({ ...claim, state: 'running' });
  return claimed === 1;
}

/** Notes how far a run is; false where it was cancelled, or is another's by now. */
export async function noteProgress(
  db: Db,
  id: number,
  { owner, done, lease_until }: { owner: string; done: number; lease_until: number },
): Promise<boolean> {
  return (await db('report_run').where({ id, owner, state: 'running' }).update({ done, lease_until })) === 1;
}

export async function endRun(
  db: Db,
  id: number,
  owner: string,
  end: { state: RunState; ended_at: number; error?: string | null; total?: number; done?: number },
): Promise<boolean> {
  return (
    (await db('report_run')
      .where({ id, owner, state: 'running' })
      .update({ ...end, owner: null })) === 1
  );
}

/** Cancels a run that has not ended; false where it has. */
export async function cancelRun(db: Db, id: number, at: number): Promise<boolean> {
  const cancelled = await db('report_run')
    .where({ id })
    .whereIn('state', ['waiting', 'running'])
    .update({ state: 'cancelled', ended_at: at, owner: null });
  return cancelled === 1;
}

/** Takes a run away of which there is nothing. */
export async function removeRun(db: Db, id: number): Promise<void> {
  await db('report_run').where({ id }).delete();
}

/** Takes runs away that were asked for before an instant and have ended. */
export async function forgetRunsBefore(db: Db, before: number): Promise<void> {
  await db('report_run').where('created_at', '<', before).whereNotIn('state', ['waiting', 'running']).delete();
}

/** Numbers of all runs there are. */
export async function allRunIds(db: Db): Promise<number[]> {
  return db('report_run').pluck('id');
}
