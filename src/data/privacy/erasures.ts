/** Who is to be erased, and who was. */
import type { Db } from '../db';
import { personColumns, staffName } from '../person';
import type { Viewer } from '../scope';

export interface ErasureRow {
  id: number;
  learner_id: string;
  name: string;
  asked_at: number;
  by: string | null;
  reason: string;
  until: number;
  taken_back_at: number | null;
  done_at: number | null;
}

/** All of them, newest first. For leads, who see everybody. */
export async function listErasures(db: Db, viewer: Viewer): Promise<ErasureRow[]> {
  const { id, name } = personColumns(viewer);
  return db('erasure')
    .join('learner', 'learner.id', 'erasure.learner_id')
    .leftJoin('staff', 'staff.id', 'erasure.staff_id')
    .orderBy('erasure.id', 'desc')
    .select(
      'erasure.id',
      db.raw(`${id} AS learner_id`),
      db.raw(`${name} AS name`),
      'erasure.asked_at',
      db.raw(`${staffName(viewer)} AS "by"`),
      'erasure.reason',
      'erasure.until',
      'erasure.taken_back_at',
      'erasure.done_at',
    );
}

interface OpenErasure {
  id: number;
  learner_id: number;
  asked_at: number;
  until: number;
  emptied_at: number | null;
  done_at: number | null;
  mark: string | null;
}

/** What somebody's erasure is at, where one was asked for and not taken back. */
export async function erasureOf(db: Db, learnerId: number): Promise<OpenErasure | undefined> {
  return db('erasure')
    .where('learner_id', learnerId)
    .whereNull('taken_back_at')
    .first('id', 'learner_id', 'asked_at', 'until', 'emptied_at', 'done_at', 'mark');
}

export async function addErasure(
  trx: Db,
  erasure: {
    learner_id: number;
    asked_at: number;
    staff_id: number | null;
    reason: string;
    until: number;
    mark?: string;
  },
): Promise<void> {
  await trx('erasure').insert(erasure);
}

/** Takes an erasure back while its days last: after them it may have begun. Returns whether there was one. */
export async function takeBack(trx: Db, learnerId: number, at: number, staffId: number | null): Promise<boolean> {
  const changed = await trx('erasure')
    .where('learner_id', learnerId)
    .whereNull('taken_back_at')
    .where('until', '>', at)
    .whereNull('emptied_at')
    .whereNull('mark')
    .update({ taken_back_at: at, taken_back_by: staffId });
  return changed > 0;
}

/** Erasures whose time has come and that are not done, the oldest first. */
export async function dueErasures(db: Db, now: number): Promise<OpenErasure[]> {
  return db('erasure')
    .whereNull('taken_back_at')
    .whereNull('done_at')
    .where('until', '<=', now)
    .orderBy('until')
    .select('id', 'learner_id', 'asked_at', 'until', 'emptied_at', 'done_at', 'mark');
}

/** Notes how far an erasure is. */
export async function noteErasure(
  trx: Db,
  id: number,
  changes: { mark?: string; until?: number; emptied_at?: number; done_at?: number },
): Promise<void> {
  await trx('erasure').where('id', id).update(changes);
}

/** Marks that the database knows of; an erasure of a merged person has several. */
export async function knownMarks(db: Db): Promise<Set<string>> {
  const marks: (string | null)[] = await db('erasure').pluck('mark');
  return new Set(marks.flatMap((one) => one?.split(' ') ?? []));
}

/** Every learner's number and the source's id, for what goes by a hash of it. */
export async function learnerIds(db: Db): Promise<{ id: number; external_id: string }[]> {
  return db('learner').select('id', 'external_id');
}

/** Is any file being taken, or waits to be? What it holds may be theirs. */
export async function isImporting(db: Db): Promise<boolean> {
  return Boolean(await db('import_run').whereIn('state', ['waiting', 'running']).first('id'));
}
