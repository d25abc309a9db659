/** Lists that somebody kept under a name. */
import type { Db } from './db';

export interface SavedView {
  id: number;
  name: string;
  /** The list's own part of its address. */
  query: string;
}

export async function listSavedViews(db: Db, staffId: number): Promise<SavedView[]> {
  return db('saved_view')
    .where('staff_id', staffId)
    .orderByRaw('name COLLATE NOCASE, id')
    .select('id', 'name', 'query');
}

/** Keeps a list under a name; one of that name is replaced. */
export async function saveView(db: Db, staffId: number, name: string, query: string): Promise<void> {
  await db('saved_view').insert({ staff_id: staffId, name, query }).onConflict(['staff_id', 'name']).merge();
}

export async function removeView(db: Db, staffId: number, id: number): Promise<boolean> {
  return (await db('saved_view').where({ id, staff_id: staffId }).delete()) === 1;
}
