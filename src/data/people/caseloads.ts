/** Own caseloads: whose they are, with whom they are shared, their rule, and whom somebody put in or left out by hand. */
import type { Knex } from 'knex';
import type { Db } from '../db';
import { staffName } from '../person';
import { learnerInScope, type Viewer } from '../scope';
import { idList } from '../view';

export interface KeptCaseload {
  id: number;
  name: string;
  /** Null for one that a program made. */
  owner_id: number | null;
  owner: string | null;
  /** Filters of the list of learners; null for one by hand alone. */
  rule: Record<string, string> | null;
  shared: { id: number; name: string }[];
  changed_at: number;
}

/** Condition: a caseload of the viewer's own, or shared with them. What a program made is the lead's who asks as one. */
function ofViewer({ staffId }: Viewer) {
  return (query: Knex.QueryBuilder) => {
    if (staffId === 0) return void query.whereNull('caseload.owner_id');
    query.where((any) =>
      any
        .where('caseload.owner_id', staffId)
        .orWhereIn('caseload.id', (shared) =>
          shared.select('caseload_id').from('caseload_share').where('staff_id', staffId),
        ),
    );
  };
}

/** Caseloads that a viewer has or is given, by name; or the one of a number or a name. */
export async function keptCaseloads(
  db: Db,
  viewer: Viewer,
  { id, name }: { id?: number; name?: string } = {},
): Promise<KeptCaseload[]> {
  const rows = await db('caseload')
    .leftJoin('staff', 'staff.id', 'caseload.owner_id')
    .where(ofViewer(viewer))
    .modify((query) => {
      if (id !== undefined) query.where('caseload.id', id);
      if (name !== undefined) query.where('caseload.name', name);
    })
    .orderByRaw('caseload.name COLLATE NOCASE, caseload.id')
    .select(
      'caseload.id',
      'caseload.name',
      'caseload.owner_id',
      db.raw(`${staffName(viewer)} AS owner`),
      'caseload.rule',
      'caseload.changed_at',
    );
  const ids = rows.map((row: { id: number }) => row.id);
  const shares: { caseload_id: number; id: number; name: string }[] = await db('caseload_share')
    .join('staff', 'staff.id', 'caseload_share.staff_id')
    .whereIn('caseload_share.caseload_id', ids)
    .orderByRaw('staff.family_name, staff.given_name, staff.id')
    .select('caseload_share.caseload_id', 'staff.id', db.raw(`${staffName(viewer)} AS name`));
  type Row = Omit<KeptCaseload, 'rule' | 'shared'> & { rule: string | null };
  return rows.map((row: Row): KeptCaseload => ({
    ...row,
    rule: row.rule === null ? null : JSON.parse(row.rule),
    shared: shares.filter(({ caseload_id }) => caseload_id === row.id).map(({ id, name }) => ({ id, name })),
  }));
}

/** Learners in scope who were put in a caseload, or left out of it, by hand. A record that was merged is the one it became. */
export async function byHand(db: Db, viewer: Viewer, caseloadId: number): Promise<{ in: number[]; out: number[] }> {
  const rows: { id: number; is_out: number }[] = await db('caseload_learner as c')
    .join('learner as given', 'given.id', 'c.learner_id')
    .join('learner', 'learner.id', db.raw('ifnull(given.merged_into, given.id)'))
    .where('c.caseload_id', caseloadId)
    .where(learnerInScope(db, viewer))
    .orderBy(['learner.sort_key', 'learner.id'])
    .select('learner.id', 'c.is_out');
  const of = (isOut: number) => [...new Set(rows.filter((row) => row.is_out === isOut).map(({ id }) => id))];
  return { in: of(0), out: of(1) };
}

export interface CaseloadChange {
  name: string;
  rule: Record<string, string> | null;
  at: number;
}

export async function addCaseload(trx: Db, staffId: number, { name, rule, at }: CaseloadChange): Promise<number> {
  const [row] = await trx('caseload')
    .insert({ name, owner_id: staffId || null, rule: rule && JSON.stringify(rule), created_at: at, changed_at: at })
    .returning('id');
  return row.id;
}

export async function changeCaseload(trx: Db, id: number, { name, rule, at }: CaseloadChange): Promise<void> {
  await trx('caseload')
    .where({ id })
    .update({ name, rule: rule && JSON.stringify(rule), changed_at: at });
}

/** Whom a caseload's owner put in and left out, in place of all that was. Those whom they do not see stay as they are. */
export async function putByHand(
  trx: Db,
  viewer: Viewer,
  id: number,
  { in: put, out }: { in: readonly number[]; out: readonly number[] },
): Promise<void> {
  const seen = trx('learner').where(learnerInScope(trx, viewer)).select('learner.id');
  await trx('caseload_learner').where('caseload_id', id).whereIn('learner_id', seen).delete();
  await addByHand(trx, id, put, false);
  await addByHand(trx, id, out, true);
}

/** Puts learners in a caseload or leaves them out, and lets the others be. */
export async function addByHand(trx: Db, id: number, learnerIds: readonly number[], isOut: boolean): Promise<void> {
  await trx.raw(
    `INSERT INTO caseload_learner (caseload_id, learner_id, is_out) SELECT ?, value, ? FROM json_each(?) WHERE true
     ON CONFLICT (caseload_id, learner_id) DO UPDATE SET is_out = excluded.is_out`,
    [id, Number(isOut), JSON.stringify(learnerIds)],
  );
}

/** Forgets that learners were put in or left out: the rule alone says then. */
export async function removeByHand(trx: Db, id: number, learnerIds: readonly number[]): Promise<void> {
  await trx('caseload_learner').where('caseload_id', id).whereIn('learner_id', idList(trx, learnerIds)).delete();
}

export async function shareCaseload(trx: Db, id: number, staffIds: readonly number[]): Promise<void> {
  await trx('caseload_share').where('caseload_id', id).delete();
  const rows = staffIds.map((staff_id) => ({ caseload_id: id, staff_id }));
  if (rows.length > 0) await trx.batchInsert('caseload_share', rows, 300);
}

export async function removeCaseload(trx: Db, id: number): Promise<void> {
  await trx('caseload').where({ id }).delete();
}
