/** a question of who did and who did not that are asked again each day. */
import { countOf, type Db } from '../db';

export interface SavedCheck {
  id: number;
  staff_id: number;
  name: string;
  /** The question's own part of its address. */
  query: string;
  /** Tell when more than this many have not. */
  limit_count: number;
  created_at: number;
  /** The day it was last asked on; null before the first time. */
  last_day: number | null;
  last_count: number | null;
  /** Out of how many. */
  last_of: number | null;
  /** Since when the number is passed; null while it is not. */
  passed_at: number | null;
  /** When its owner last saw it. */
  seen_at: number | null;
  /** Why it could not be asked the last time. */
  fault: string | null;
}

export async function listChecks(db: Db, staffId: number): Promise<SavedCheck[]> {
  return db('saved_check').where('staff_id', staffId).orderByRaw('name COLLATE NOCASE, id');
}

/** Keeps a question under a name; one of that name is replaced and asked anew. */
export async function storeCheck(
  db: Db,
  check: Pick<SavedCheck, 'staff_id' | 'name' | 'query' | 'limit_count' | 'created_at'>,
): Promise<void> {
  const fresh = { last_day: null, last_count: null, last_of: null, passed_at: null, seen_at: null, fault: null };
  await db('saved_check')
    .insert({ ...check, ...fresh })
    .onConflict(['staff_id', 'name'])
    .merge();
}

export async function deleteCheck(db: Db, staffId: number, id: number): Promise<SavedCheck | null> {
  const row = await db('saved_check').where({ id, staff_id: staffId }).first();
  if (row) await db('saved_check').where({ id }).delete();
  return row ?? null;
}

/** Checks that have not been asked on this day, of people whose account is open. */
export async function dueChecks(db: Db, today: number): Promise<SavedCheck[]> {
  return db('saved_check')
    .join('staff', 'staff.id', 'saved_check.staff_id')
    .whereNull('staff.ended_at')
    .where((either) => either.whereNull('last_day').orWhere('last_day', '<', today))
    .orderBy('saved_check.id')
    .select('saved_check.*');
}

export async function noteAnswer(
  db: Db,
  id: number,
  answer: Pick<SavedCheck, 'last_day' | 'last_count' | 'last_of' | 'passed_at' | 'fault'>,
): Promise<void> {
  await db('saved_check').where({ id }).update(answer);
}

/** How many of somebody's checks have passed their number since they last looked. */
export async function countUnseen(db: Db, staffId: number): Promise<number> {
  return countOf(
    db('saved_check').where('staff_id', staffId).whereNotNull('passed_at').whereRaw('ifnull(seen_at, 0) < passed_at'),
  );
}

export async function noteSeen(db: Db, staffId: number, now: number): Promise<void> {
  await db('saved_check').where('staff_id', staffId).whereNotNull('passed_at').update({ seen_at: now });
}
