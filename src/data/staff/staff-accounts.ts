/** Staff as a lead manages them: roles, scopes and who may still sign in. */
import type { ScopeKind, StaffRole } from '@/core/staff/roles';
import { countOf, type Db } from '../db';
import { personColumns, staffColumn, staffName } from '../person';
import type { Viewer } from '../scope';
import { whoHasIdentity } from './identities';
import { newestInvitations, type LinkRow } from './password-links';
import { whoHasSecond } from './second-factor';

export interface StaffRow {
  id: number;
  staff_id: string;
  name: string;
  given_name: string;
  family_name: string;
  email: string;
  role: StaffRole;
  /** Has a password, so can sign in while not ended. */
  signs_in: boolean;
  ended_at: number | null;
  scopes: ScopeRow[];
  /** Has a second factor: codes of an app, or a passkey. */
  has_second: boolean;
  /** Does the provider know them? */
  by_provider: boolean;
  /** The newest invitation; null where there never was one. */
  invitation: LinkRow | null;
}

export interface ScopeRow {
  id: number;
  kind: ScopeKind;
  /** `DRY`, `DRY/A`, an organisation's name, a learner's id; empty for everyone. */
  target: string;
}

/** As it is read: without what is beside it, and yes and no as numbers. */
type StoredStaff = Omit<StaffRow, 'scopes' | 'signs_in' | 'has_second' | 'by_provider' | 'invitation'> & {
  signs_in: 0 | 1;
};

/** Every member of staff with their scopes, those who have left last. */
export async function listStaff(db: Db, viewer: Viewer): Promise<StaffRow[]> {
  const namesHidden = viewer.standInKey !== null;
  const staff = await db('staff')
    .orderByRaw('ended_at IS NOT NULL, family_name COLLATE NOCASE, given_name COLLATE NOCASE, id')
    .select<StoredStaff[]>(
      'id',
      db.raw(`${staffColumn(viewer, 'external_id')} AS staff_id`),
      db.raw(`${staffName(viewer)} AS name`),
      namesHidden ? db.raw(`${staffName(viewer)} AS given_name`) : 'given_name',
      namesHidden ? db.raw("'' AS family_name") : 'family_name',
      db.raw(`${staffColumn(viewer, 'email')} AS email`),
      'role',
      db.raw('password_hash IS NOT NULL AS signs_in'),
      'ended_at',
    );
  const scopes = await db('staff_scope as s')
    .leftJoin('organisation as o', 'o.id', 's.organisation_id')
    .leftJoin('course as c', 'c.id', 's.course_id')
    .leftJoin('course_group as g', 'g.id', 's.group_id')
    .leftJoin('course as gc', 'gc.id', 'g.course_id')
    .leftJoin('learner', 'learner.id', 's.learner_id')
    .orderBy(['s.kind', 's.id'])
    .select(
      's.id',
      's.staff_id',
      's.kind',
      db.raw(
        `coalesce(o.name, c.code, gc.code || '/' || g.name,
          CASE WHEN learner.id IS NULL THEN NULL ELSE ${personColumns(viewer).id} END, '') AS target`,
      ),
    );
  const [second, known, invitations] = await Promise.all([whoHasSecond(db), whoHasIdentity(db), newestInvitations(db)]);
  return staff.map((row) => ({
    ...row,
    signs_in: row.signs_in === 1,
    has_second: second.has(row.id),
    by_provider: known.has(row.id),
    invitation: invitations.get(row.id) ?? null,
    scopes: scopes.filter((scope) => scope.staff_id === row.id).map(({ id, kind, target }) => ({ id, kind, target })),
  }));
}

export async function updateStaff(
  trx: Db,
  id: number,
  changes: Partial<{
    given_name: string;
    family_name: string;
    email: string;
    role: StaffRole;
    ended_at: number | null;
  }>,
): Promise<void> {
  await trx('staff').where({ id }).update(changes);
}

/** The id that a scope's words stand for; null when there is no such thing. */
export async function scopeTarget(db: Db, kind: Exclude<ScopeKind, 'all'>, words: string): Promise<number | null> {
  if (kind === 'group') {
    const [course, ...rest] = words.split('/');
    const group = await db('course_group as g')
      .join('course', 'course.id', 'g.course_id')
      .where({ 'course.code': course, 'g.name': rest.join('/') })
      .first('g.id');
    return group?.id ?? null;
  }
  const column = { organisation: 'name', course: 'code', learner: 'external_id' }[kind];
  return (await db(kind).where(column, words).first('id'))?.id ?? null;
}

export async function removeScope(trx: Db, staffId: number, scopeId: number): Promise<void> {
  await trx('staff_scope').where({ id: scopeId, staff_id: staffId }).delete();
}

/** How many people lead the programme and can sign in. */
export async function countLeads(db: Db): Promise<number> {
  return countOf(
    db('staff')
      .where('role', 'lead')
      .whereNotNull('password_hash')
      .whereNull('ended_at')
      .whereExists(db('staff_scope').whereRaw('staff_scope.staff_id = staff.id').where('kind', 'all')),
  );
}

/** Those on the staff who can sign in, partners' contacts and the viewer left out, by name. */
export async function colleaguesToShareWith(db: Db, viewer: Viewer): Promise<{ id: number; name: string }[]> {
  return db('staff')
    .whereNull('ended_at')
    .whereNotNull('password_hash')
    .whereNot('role', 'coordinator')
    .whereNot('id', viewer.staffId)
    .orderByRaw('family_name COLLATE NOCASE, given_name COLLATE NOCASE, id')
    .select('id', db.raw(`${staffName(viewer)} AS name`));
}
