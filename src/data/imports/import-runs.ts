/** Imports: waiting, running, done and failed. */
import type { FileKindName } from '@/core/imports/kinds';
import { countOf, prepared, type Db, type RawConnection } from '../db';
import { staffName } from '../person';
import type { Viewer } from '../scope';

export interface ImportRun {
  id: number;
  kind: FileKindName;
  source: string;
  timezone: string;
  file_name: string;
  path: string;
  size: number;
  /** Offered: looked at on the page, and not to be taken yet. */
  state: 'offered' | 'waiting' | 'running' | 'done' | 'failed';
  read: number;
  accepted: number;
  duplicate: number;
  rejected: number;
  unmatched: number;
  bytes_done: number;
  rejects_bytes: number;
  unknown_columns: string;
  /** What there is to say of it beside its counts, as JSON. */
  notes: string;
  /** The mapping it is read by, as JSON; null for our own headings. */
  mapping: string | null;
  /** The session that a file of presence is of; null where its rows say. */
  session: string | null;
  /** The course, or course and group, that a calendar is of. */
  part: string | null;
  error: string | null;
  /** How often whoever worked on it has broken down since it last got on. */
  tries: number;
  /** What its importer remembered then, as JSON. */
  importer_state: string | null;
  /** Once all rows are taken: enrolments whose progress and drift are worked out, and of how many. */
  derived: number | null;
  to_derive: number | null;
  /** How a file of another system is read, as JSON; null for our own. */
  plan: string | null;
  /** What was made that nobody had told of, as JSON. */
  made: string;
  /** Rows that wait until somebody says whom they are about. */
  waiting: number;
  staff_id: number | null;
  created_at: number;
  finished_at: number | null;
  by: string | null;
}

export async function addRun(
  db: Db,
  run: Pick<
    ImportRun,
    | 'staff_id'
    | 'kind'
    | 'source'
    | 'timezone'
    | 'file_name'
    | 'path'
    | 'size'
    | 'created_at'
    | 'mapping'
    | 'session'
    | 'part'
  > &
    Partial<Pick<ImportRun, 'plan' | 'notes' | 'state' | 'error' | 'finished_at'>>,
): Promise<number> {
  const [row] = await db('import_run')
    .insert({ state: 'waiting', ...run })
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
  const total = await countOf(db('import_run').whereNot('state', 'offered'));
  const rows = await runs(db, staffName(viewer))
    .whereNot('state', 'offered')
    .orderBy('import_run.id', 'desc')
    .limit(limit)
    .offset(offset);
  return { rows, total };
}

/** Every run that has not ended, oldest first, with who works on it until when. */
export async function openRuns(db: Db): Promise<(ImportRun & Hold)[]> {
  return runs(db).whereIn('state', ['waiting', 'running']).orderBy('import_run.id');
}

/** Files that somebody has yet to look at, in the order in which they came. */
export async function offeredRuns(db: Db): Promise<ImportRun[]> {
  return runs(db).where('state', 'offered').orderBy('import_run.id');
}

/** Keeps what somebody has said of a file that they look at. */
export async function setPlan(db: Db, id: number, plan: object): Promise<void> {
  await db('import_run')
    .where({ id, state: 'offered' })
    .update({ plan: JSON.stringify(plan) });
}

/** Says of a file that is looked at where it is from, or what a calendar is of. */
export async function setSaid(db: Db, id: number, said: Partial<Pick<ImportRun, 'source' | 'part'>>): Promise<void> {
  await db('import_run').where({ id, state: 'offered' }).update(said);
}

/** Takes away a file that was only looked at. Returns false where somebody has taken or left it out already. */
export async function removeRun(db: Db, id: number): Promise<boolean> {
  return (await db('import_run').where({ id, state: 'offered' }).delete()) === 1;
}

/** Who works on an import, and until when if nothing is heard of them. */
export interface Hold {
  owner: string | null;
  lease_until: number;
}

/** Imports that have begun and not ended. */
export function runningImports(raw: RawConnection): Hold[] {
  return prepared(raw, "SELECT owner, lease_until FROM import_run WHERE state = 'running'").all() as Hold[];
}

/**
 * Takes a run on, if it is still as it was seen.
 * @param tries how often whoever worked on it has broken down since it last got on
 */
export async function claimRun(
  db: Db,
  id: number,
  seen: Hold,
  { owner, lease_until, tries }: { owner: string; lease_until: number; tries: number },
): Promise<boolean> {
  const changed = await db('import_run')
    .where({ id, lease_until: seen.lease_until })
    .where((q) => (seen.owner === null ? q.whereNull('owner') : q.where('owner', seen.owner)))
    .whereIn('state', ['waiting', 'running'])
    .update({ state: 'running', owner, lease_until, error: null, tries });
  return changed === 1;
}

/** Somebody else has taken an import over: whoever had it stops, and what they had not stored is undone. */
export class LostImport extends Error {
  override name = 'LostImport';
}

/** @throws LostImport unless the owner still has the import */
export function requireOwner(raw: RawConnection, id: number, owner: string): void {
  const has = prepared(raw, 'SELECT owner FROM import_run WHERE id = ?').pluck().get(id);
  if (has !== owner) throw new LostImport(`Import ${id} was taken over`);
}

/**
 * Keeps an import for longer.
 * @param deriving how far what follows from it is worked out; left out while its rows are taken
 * @throws LostImport
 */
export async function keepRun(
  db: Db,
  id: number,
  owner: string,
  leaseUntil: number,
  deriving?: { done: number; total: number },
): Promise<void> {
  const progress = deriving && { derived: deriving.done, to_derive: deriving.total };
  const kept = await db('import_run')
    .where({ id, owner })
    .update({ lease_until: leaseUntil, ...progress });
  if (kept !== 1) throw new LostImport(`Import ${id} was taken over`);
}

/** Gives a run back to be gone on with later. */
export async function releaseRun(db: Db, id: number, owner: string, error: string): Promise<void> {
  await db('import_run').where({ id, owner }).update({ owner: null, lease_until: 0, error, tries: 0 });
}

export interface Progress {
  read: number;
  accepted: number;
  duplicate: number;
  rejected: number;
  waiting: number;
  bytes_done: number;
  rejects_bytes: number;
}

/** Notes how far an import is, in its batch's own transaction, which has asked whose it is. */
export function noteProgress(
  raw: RawConnection,
  id: number,
  progress: Progress,
  leaseUntil: number,
  state: string | null = null,
): void {
  raw
    .prepare(
      `UPDATE import_run SET read = @read, accepted = @accepted, duplicate = @duplicate, rejected = @rejected, waiting = @waiting,
       bytes_done = @bytes_done, rejects_bytes = @rejects_bytes, lease_until = @leaseUntil, importer_state = @state, tries = 0
       WHERE id = @id`,
    )
    .run({ ...progress, leaseUntil, id, state });
}

/** Notes what was made for a file, beside what was made for it before it was interrupted. */
export function noteMade(raw: RawConnection, id: number, made: Record<string, number>): void {
  const before = JSON.parse(prepared(raw, 'SELECT made FROM import_run WHERE id = ?').pluck().get(id) as string);
  const all = Object.fromEntries(Object.entries(made).map(([what, count]) => [what, count + (before[what] ?? 0)]));
  prepared(raw, 'UPDATE import_run SET made = ? WHERE id = ?').run(JSON.stringify(all), id);
}

export async function noteUnknownColumns(db: Db, id: number, names: readonly string[]): Promise<void> {
  await db('import_run')
    .where({ id })
    .update({ unknown_columns: JSON.stringify(names) });
}

/** Keeps what there is to say of a file beside its counts. */
export async function noteRemarks(db: Db, id: number, remarks: readonly string[]): Promise<void> {
  if (remarks.length === 0) return;
  const run = (await findRun(db, id))!;
  const all = [...new Set([...(JSON.parse(run.notes) as string[]), ...remarks])];
  await db('import_run')
    .where({ id })
    .update({ notes: JSON.stringify(all) });
}

/** Ends a run. @throws LostImport */
export async function endRun(
  db: Db,
  { id, owner }: { id: number; owner: string },
  state: 'done' | 'failed',
  now: number,
  error: string | null,
): Promise<void> {
  const ended = await db('import_run')
    .where({ id, owner })
    .update({ state, finished_at: now, error, owner: null, lease_until: 0 });
  if (ended !== 1) throw new LostImport(`Import ${id} was taken over`);
}
