/** Who looked at whom, and what was taken away. */
import { countOf, type Db } from '../db';
import { cutPage, newestFirst, type PageAfter } from '../newest-first';
import { personColumns, staffColumn, staffName } from '../person';
import type { Viewer } from '../scope';

export interface NewLook {
  at: number;
  staff_id: number | null;
  learner_id: number | null;
  /** Which page, or `export`. */
  what: string;
  /** Of an export, its address and filters that name nobody. */
  subject: string;
}

/** Writes looks down; they are never changed. */
export async function addLooks(db: Db, looks: readonly NewLook[]): Promise<void> {
  await db.batchInsert('look', [...looks], 100);
}

export interface LookRow {
  id: number;
  at: number;
  /** Null for the installation's own token. */
  by: string | null;
  email: string | null;
  learner_id: string | null;
  name: string | null;
  what: string;
  subject: string;
}

export interface LookSearch {
  /** Of these records: somebody's own, and those that were merged into it. */
  learnerIds?: readonly number[];
  staffIds?: readonly number[];
  /** Instants, both included. */
  from?: number;
  until?: number;
}

/** Newest first. For leads, who see everybody. */
export async function looksPage(
  db: Db,
  viewer: Viewer,
  { learnerIds, staffIds, from, until }: LookSearch,
  page: PageAfter,
): Promise<{ rows: LookRow[]; total: number; goesOn: boolean }> {
  const { id, name } = personColumns(viewer);
  const found = () =>
    db('look').modify((query) => {
      if (learnerIds !== undefined) query.whereIn('look.learner_id', learnerIds);
      if (staffIds !== undefined) query.whereIn('look.staff_id', staffIds);
      if (from !== undefined) query.where('look.at', '>=', from);
      if (until !== undefined) query.where('look.at', '<=', until);
    });
  const total = await countOf(found());
  const rows: LookRow[] = await found()
    .leftJoin('learner', 'learner.id', 'look.learner_id')
    .leftJoin('staff', 'staff.id', 'look.staff_id')
    .modify(newestFirst('look.at', 'look.id', page))
    .select(
      'look.id',
      'look.at',
      db.raw(`${staffName(viewer)} AS "by"`),
      'staff.email',
      db.raw(`CASE WHEN learner.id IS NULL THEN NULL ELSE ${id} END AS learner_id`),
      db.raw(`CASE WHEN learner.id IS NULL THEN NULL ELSE ${name} END AS name`),
      'look.what',
      'look.subject',
    );
  return { ...cutPage(rows, page.limit), total };
}

/** Numbers of the staff whose name or address, as the viewer reads them, holds a text; also those who have left. */
export async function staffNamed(db: Db, viewer: Viewer, text: string): Promise<number[]> {
  const read = `fold_text(${staffName(viewer)} || ' ' || ${staffColumn(viewer, 'email')})`;
  return db('staff').whereRaw(`instr(${read}, fold_text(?)) > 0`, [text]).pluck('staff.id');
}
