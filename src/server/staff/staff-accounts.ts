/** Staff accounts, roles and scopes, managed by a lead. */
import { hash } from '@node-rs/argon2';
import { IsEmail, IsIn, IsNotEmpty, IsOptional, MaxLength } from 'class-validator';
import { fullName } from '@/core/people/name';
import { SCOPE_KINDS, STAFF_ROLES, sayScope, type ScopeKind, type StaffRole } from '@/core/staff/roles';
import { addAudit, type Changes } from '@/data/audit';
import { writing, rawTransaction, type Db } from '@/data/db';
import type { Viewer } from '@/data/scope';
import {
  addScope,
  addStaff,
  endFeedsOf,
  endSessionsOf,
  setPassword,
  staffByEmail,
  staffById,
} from '@/data/staff/staff';
import { endTokensOf } from '@/data/staff/own-tokens';
import { endLinksOf } from '@/data/staff/password-links';
import { listStaff, removeScope, scopeTarget, updateStaff } from '@/data/staff/staff-accounts';
import { reassignStaffEvents } from '@/data/access/actors';
import { InvalidInput, NotFound, readInput, type Values } from '../request/input';
import { requireLead } from '../request/lead';
import { NewPasswordInput } from './new-password';
import { keepingOneLead } from './one-lead';
import type { Runtime } from '../runtime';

const missing = { message: 'is missing' };
const long = { message: 'is longer than 200 characters' };

export class StaffInput {
  @IsNotEmpty(missing) @MaxLength(200, long) given_name!: string;
  @IsOptional() @MaxLength(200, long) family_name?: string;
  @IsEmail({}, { message: 'is not an e-mail address' }) email!: string;
  @IsIn(STAFF_ROLES, { message: `is not one of ${STAFF_ROLES.join(', ')}` }) role!: StaffRole;
}

export class ScopeInput {
  @IsIn(SCOPE_KINDS, { message: `is not one of ${SCOPE_KINDS.join(', ')}` }) kind!: ScopeKind;
  @IsOptional() @MaxLength(200, long) target?: string;
}

async function requireStaff(trx: Db, id: number) {
  const found = await staffById(trx, id);
  if (!found) throw new NotFound('No such member of staff');
  return found;
}

async function audit({ clock }: Runtime, trx: Db, viewer: Viewer, what: string, subject: string, changes?: Changes) {
  await addAudit(trx, { at: clock.now(), staff_id: viewer.staffId, what, subject, changes });
}

async function refuseTakenEmail(trx: Db, email: string, own: number | null): Promise<void> {
  const taken = await staffByEmail(trx, email);
  if (taken && taken.id !== own)
    throw new InvalidInput([{ field: 'email', message: `belongs to ${taken.external_id} already` }]);
}

/** Adds a member of staff, who sees nobody until a scope is given. Returns their id. @throws InvalidInput, NotFound */
export async function enterStaff(runtime: Runtime, viewer: Viewer, values: Values): Promise<number> {
  requireLead(viewer);
  const { given_name, family_name, email, role } = readInput(StaffInput, values);
  return writing(runtime.db, async (trx) => {
    await refuseTakenEmail(trx, email, null);
    const person = { given_name, family_name: family_name ?? '', email, role };
    const id = await addStaff(trx, { external_id: email, password_hash: null, ...person });
    await audit(runtime, trx, viewer, 'added a member of staff', `${email}, ${role}`);
    return id;
  });
}

/** @throws InvalidInput, NotFound */
export async function changeStaff(runtime: Runtime, viewer: Viewer, id: number, values: Values): Promise<void> {
  requireLead(viewer);
  const input = readInput(StaffInput, values);
  await writing(runtime.db, async (trx) => {
    const before = await requireStaff(trx, id);
    await refuseTakenEmail(trx, input.email, id);
    const after = { ...input, family_name: input.family_name ?? '' };
    const names = ['given_name', 'family_name', 'email', 'role'] as const;
    const changes = Object.fromEntries(
      names.filter((name) => before[name] !== after[name]).map((name) => [name, [before[name], after[name]]]),
    ) as Changes;
    if (Object.keys(changes).length === 0) return;
    await keepingOneLead(trx, 'role', () => updateStaff(trx, id, after));
    // What went to the old address is not the new one's.
    if (before.email !== after.email) await endLinksOf(trx, id, runtime.clock.now());
    await audit(runtime, trx, viewer, 'changed a member of staff', nameIn(before), changes);
  });
  await rawTransaction(runtime.db, (raw) => reassignStaffEvents(raw, runtime.zone));
}

/** Lets somebody see one part more. @throws InvalidInput, NotFound */
export async function giveScope(runtime: Runtime, viewer: Viewer, id: number, values: Values): Promise<void> {
  requireLead(viewer);
  const { kind, target } = readInput(ScopeInput, values);
  await writing(runtime.db, async (trx) => {
    const staff = await requireStaff(trx, id);
    let targetId: number | null = null;
    if (kind !== 'all') {
      if (!target) throw new InvalidInput([{ field: 'target', message: `is missing: which ${kind}?` }]);
      targetId = await scopeTarget(trx, kind, target);
      if (targetId === null) {
        const hint = kind === 'group' ? ' (write it as COURSE/GROUP)' : '';
        throw new InvalidInput([{ field: 'target', message: `there is no ${kind} ${target}${hint}` }]);
      }
    }
    await addScope(trx, id, kind, targetId);
    await audit(runtime, trx, viewer, 'gave a scope', `${nameIn(staff)}: ${sayScope({ kind, target: target ?? '' })}`);
  });
  await rawTransaction(runtime.db, (raw) => reassignStaffEvents(raw, runtime.zone));
}

/** How Changes names a member of staff: as people know them, with the id that files know them by. */
function nameIn(staff: { given_name: string; family_name: string; external_id: string }): string {
  return `${fullName(staff)} (${staff.external_id})`;
}

/** Takes a scope away; what it was is in *Changes*, in words. @throws InvalidInput when nobody would lead any more, NotFound */
export async function takeScope(runtime: Runtime, viewer: Viewer, id: number, scopeId: number): Promise<void> {
  requireLead(viewer);
  await writing(runtime.db, async (trx) => {
    const staff = await requireStaff(trx, id);
    const everybody = await listStaff(trx, { ...viewer, standInKey: null });
    const scope = everybody.find((one) => one.id === id)!.scopes.find((scope) => scope.id === scopeId);
    if (!scope) throw new NotFound('No such scope');
    await keepingOneLead(trx, 'scope', () => removeScope(trx, id, scopeId));
    await audit(runtime, trx, viewer, 'took a scope', `${nameIn(staff)}: ${sayScope(scope)}`);
  });
}

/** Sets a password, with which they sign in from now on; what was signed in ends. @throws InvalidInput, NotFound */
export async function givePassword(runtime: Runtime, viewer: Viewer, id: number, values: Values): Promise<void> {
  requireLead(viewer);
  const password_hash = await hash(readInput(NewPasswordInput, values).password);
  await writing(runtime.db, async (trx) => {
    const staff = await requireStaff(trx, id);
    await setPassword(trx, id, password_hash, runtime.clock.now());
    await endSessionsOf(trx, id);
    await audit(runtime, trx, viewer, 'set a password', nameIn(staff));
  });
}

/** Ends somebody's account (they are signed out at once), or opens it again. @throws InvalidInput, NotFound */
export async function endStaff(runtime: Runtime, viewer: Viewer, id: number, ended: boolean): Promise<void> {
  requireLead(viewer);
  await writing(runtime.db, async (trx) => {
    const staff = await requireStaff(trx, id);
    const ended_at = ended ? runtime.clock.now() : null;
    await keepingOneLead(trx, 'account', () => updateStaff(trx, id, { ended_at }));
    if (ended) {
      await endSessionsOf(trx, id);
      await endFeedsOf(trx, id, runtime.clock.now());
      await endLinksOf(trx, id, runtime.clock.now());
      await endTokensOf(trx, id, runtime.clock.now());
    }
    await audit(runtime, trx, viewer, ended ? 'ended an account' : 'opened an account again', nameIn(staff));
  });
}
