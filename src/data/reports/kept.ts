/** Reports that are kept under a name: whose they are, with whom they are shared, what they are made of. */
import type { Knex } from 'knex';
import type { ReportDefinition } from '@/core/reports/definition';
import type { Db } from '../db';
import { staffName } from '../person';
import type { Viewer } from '../scope';

export interface KeptReport {
  id: number;
  name: string;
  definition: ReportDefinition;
  /** Null for one that a program made. */
  owner_id: number | null;
  owner: string | null;
  owner_ended: number | null;
  shared: { id: number; name: string }[];
  revision: number;
  created_at: number;
  changed_at: number;
  changed_by: string | null;
  changed_by_id: number | null;
  last_run_at: number | null;
}

/** Condition: a report of the viewer's own, or shared with them. What a program made is the lead's who asks as one. */
function ofViewer({ staffId }: Viewer) {
  return (query: Knex.QueryBuilder) => {
    if (staffId === 0) {
      query.whereNull('report.owner_id');
      return;
    }
    query.where((any) =>
      any
        .where('report.owner_id', staffId)
        .orWhereIn('report.id', (shared) => shared.select('report_id').from('report_share').where('staff_id', staffId)),
    );
  };
}

/** Reports that a viewer has or is given, by name. */
export async function keptReports(db: Db, viewer: Viewer, id?: number): Promise<KeptReport[]> {
  const rows = await db('report')
    .leftJoin('staff', 'staff.id', 'report.owner_id')
    .leftJoin('staff as changer', 'changer.id', 'report.changed_by')
    .where(ofViewer(viewer))
    .modify((query) => {
      if (id !== undefined) query.where('report.id', id);
    })
    .orderByRaw('report.name COLLATE NOCASE, report.id')
    .select(
      'report.id',
      'report.name',
      'report.definition',
      'report.owner_id',
      db.raw(`${staffName(viewer)} AS owner`),
      'staff.ended_at as owner_ended',
      'report.revision',
      'report.created_at',
      'report.changed_at',
      db.raw(`${staffName(viewer, 'changer')} AS changed_by`),
      'report.changed_by as changed_by_id',
      'report.last_run_at',
    );
  const shares = await db('report_share')
    .join('staff', 'staff.id', 'report_share.staff_id')
    .whereIn(
      'report_share.report_id',
      rows.map((row: { id: number }) => row.id),
    )
    .orderByRaw('staff.family_name, staff.given_name, staff.id')
    .select('report_share.report_id', 'staff.id', db.raw(`${staffName(viewer)} AS name`));
  type Row = Omit<KeptReport, 'definition' | 'shared'> & { definition: string };
  return rows.map((row: Row): KeptReport => ({
    ...row,
    definition: JSON.parse(row.definition),
    shared: shares
      .filter((share: { report_id: number }) => share.report_id === row.id)
      .map(({ id: staffId, name }: { id: number; name: string }) => ({ id: staffId, name })),
  }));
}

export interface NewReport {
  name: string;
  definition: ReportDefinition;
  staffId: number;
  at: number;
}

export async function addReport(trx: Db, { name, definition, staffId, at }: NewReport): Promise<number> {
  const [row] = await trx('report')
    .insert({
      name,
      definition: JSON.stringify(definition),
      owner_id: staffId || null,
      created_at: at,
      changed_at: at,
      changed_by: staffId || null,
    })
    .returning('id');
  return row.id;
}

/** Changes a report as it was seen; false where somebody has changed it since. */
export async function changeReport(
  trx: Db,
  id: number,
  revision: number,
  { name, definition, staffId, at }: NewReport,
): Promise<boolean> {
  const changed = await trx('report')
    .where({ id, revision })
    .update({
      name,
      definition: JSON.stringify(definition),
      revision: revision + 1,
      changed_at: at,
      changed_by: staffId || null,
    });
  return changed === 1;
}

export async function shareReport(trx: Db, id: number, staffIds: readonly number[]): Promise<void> {
  await trx('report_share').where('report_id', id).delete();
  if (staffIds.length === 0) return;
  await trx('report_share').insert(staffIds.map((staff_id) => ({ report_id: id, staff_id })));
}

export async function removeReport(trx: Db, id: number): Promise<void> {
  await trx('report').where({ id }).delete();
}

export async function noteRun(db: Db, id: number, at: number): Promise<void> {
  await db('report').where({ id }).update({ last_run_at: at });
}
