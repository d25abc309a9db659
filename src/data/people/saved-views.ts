/** Lists that somebody kept under a name. */
import type { Db } from '../db';

export interface SavedView {
  id: number;
  name: string;
  /** The list's own part of its address. */
  query: string;
}

export async function listSavedViews(db: Db, staffId: number): Promise<SavedView[]> {
  return db('saved_view')
    .where('staff_id', staffId)
    .whereNull('ended_at')
    .orderByRaw('name COLLATE NOCASE, id')
    .select('id', 'name', 'query');
}

/** Keeps a list under a name; one of that name is replaced. */
export async function storeView(db: Db, staffId: number, name: string, query: string): Promise<void> {
  await db('saved_view')
    .insert({ staff_id: staffId, name, query, ended_at: null })
    .onConflict(['staff_id', 'name'])
    .merge();
}

/** Takes a view of somebody's away, or (null) puts it back. False when it is none of theirs. */
export async function endView(db: Db, staffId: number, id: number, at: number | null): Promise<boolean> {
  return (await db('saved_view').where({ id, staff_id: staffId }).update({ ended_at: at })) === 1;
}
