/** Imports: waiting, running, done and failed. */
import type { FileKindName } from '@/core/formats/kinds';
import type { Db, RawConnection } from './db';
import { staffName } from './person';
import type { Viewer } from './scope';

export interface ImportRun {
  id: number;
  kind: FileKindName;
  source: string;
  timezone: string;
  file_name: string;
  path: string;
  size: number;
  state: 'waiting' | 'running' | 'done' | 'failed';
  read: number;
  accepted: number;
  duplicate: number;
  rejected: number;
  unmatched: number;
  bytes_done: number;
  rejects_bytes: number;
  unknown_columns: string;
  /** The mapping it is read by, as JSON; null for our own headings. */
  mapping: string | null;
  error: string | null;
  staff_id: number | null;
  created_at: number;
  finished_at: number | null;
  by: string | null;
}

export async function addRun(
  db: Db,
  run: Pick<
    ImportRun,
    'staff_id' | 'kind' | 'source' | 'timezone' | 'file_name' | 'path' | 'size' | 'created_at' | 'mapping'
  >,
): Promise<number> {
  const [row] = await db('import_run')
    .insert({ ...run, state: 'waiting' })
    .returning('id');
  return row.id;
}

function runs(db: Db, by = 'NULL') {
  return db('import_run')
    .leftJoin('staff', 'staff.id', 'import_run.staff_id')
    .select('import_run.*', db.raw(`${by} AS "by"`));
}

export async function findRun(db: Db, id: number): Promise<ImportRun | null> {
  return (await runs(db).where('import_run.id', id).first()) ?? null;
}

/** Imports, newest first, with who brought them in. */
export async function pastRuns(
  db: Db,
  viewer: Viewer,
  limit: number,
  offset: number,
): Promise<{ rows: ImportRun[]; total: number }> {
  const [{ total }] = await db('import_run').count('* as total');
  const rows = await runs(db, staffName(viewer)).orderBy('import_run.id', 'desc').limit(limit).offset(offset);
  return { rows, total: Number(total) };
}

/** Every run that has not ended, oldest first, with who works on it until when. */
export async function openRuns(db: Db): Promise<(ImportRun & { owner: string | null; lease_until: number })[]> {
  return runs(db).whereIn('state', ['waiting', 'running']).orderBy('import_run.id');
}

/** Takes a run on, if still nobody else has. */
export async function claimRun(
  db: Db,
  id: number,
  seenOwner: string | null,
  owner: string,
  leaseUntil: number,
): Promise<boolean> {
  const changed = await db('import_run')
    .where({ id })
    .where((q) => (seenOwner === null ? q.whereNull('owner') : q.where('owner', seenOwner)))
    .whereIn('state', ['waiting', 'running'])
    .update({ state: 'running', owner, lease_until: leaseUntil, error: null });
  return changed === 1;
}

/** Gives a run back to be gone on with later. */
export async function releaseRun(db: Db, id: number, error: string): Promise<void> {
  await db('import_run').where({ id }).update({ owner: null, lease_until: 0, error });
}

export interface Progress {
  read: number;
  accepted: number;
  duplicate: number;
  rejected: number;
  bytes_done: number;
  rejects_bytes: number;
}

/** Notes how far an import is, in its batch's own transaction. */
export function noteProgress(raw: RawConnection, id: number, progress: Progress, leaseUntil: number): void {
  raw
    .prepare(
      `UPDATE import_run SET read = @read, accepted = @accepted, duplicate = @duplicate, rejected = @rejected,
       bytes_done = @bytes_done, rejects_bytes = @rejects_bytes, lease_until = @leaseUntil WHERE id = @id`,
    )
    .run({ ...progress, leaseUntil, id });
}

export async function noteUnknownColumns(db: Db, id: number, names: readonly string[]): Promise<void> {
  await db('import_run')
    .where({ id })
    .update({ unknown_columns: JSON.stringify(names) });
}

export async function endRun(
  db: Db,
  id: number,
  state: 'done' | 'failed',
  now: number,
  error: string | null,
): Promise<void> {
  await db('import_run').where({ id }).update({ state, finished_at: now, error, owner: null, lease_until: 0 });
}
