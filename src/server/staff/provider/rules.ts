/** What claims of the provider mean here, and whether passwords let in beside it: set by leads. */
import { IsIn, IsNotEmpty, IsOptional, MaxLength } from 'class-validator';
import { SCOPE_KINDS, STAFF_ROLES, sayScope, type ScopeKind } from '@/core/staff/roles';
import { isLead } from '@/core/staff/rights';
import { addAudit } from '@/data/audit';
import { writing, type Db } from '@/data/db';
import type { Viewer } from '@/data/scope';
import { readSetting, writeSetting } from '@/data/settings';
import { addClaimRule, claimRules, dropIdentities, removeClaimRule, type ClaimRule } from '@/data/staff/identities';
import { endPasswordSessions, staffById, viewerOf } from '@/data/staff/staff';
import { scopeTarget } from '@/data/staff/staff-accounts';
import { InvalidInput, NotFound, readInput, type Values } from '../../request/input';
import { requireLead } from '../../request/lead';
import type { Runtime } from '../../runtime';

const missing = { message: 'is missing' };
const long = { message: 'is longer than 200 characters' };

/** What a rule gives: a role, or a kind of scope. */
export const GIVEN = [
  ...STAFF_ROLES.map((role) => `role ${role}`),
  ...SCOPE_KINDS.filter((kind) => kind !== 'learner').map((kind) => `scope ${kind}`),
];

export class ClaimRuleInput {
  @IsNotEmpty(missing) @MaxLength(200, long) claim!: string;
  @IsNotEmpty(missing) @MaxLength(200, long) value!: string;
  @IsIn(GIVEN, { message: 'is neither a role nor a scope' }) gives!: string;
  @IsOptional() @MaxLength(200, long) target?: string;
}

/** A rule in words. @example sayRule(rule) // 'groups = mentors: the role mentor' */
export function sayRule({ claim, value, role, scope_kind, target }: Omit<ClaimRule, 'id'>): string {
  const gives = role === null ? `sees ${sayScope({ kind: scope_kind!, target })}` : `the role ${role}`;
  return `${claim} = ${value}: ${gives}`;
}

/** Every rule, for leads. @throws NotFound for anybody else */
export async function rulesFor({ db }: Runtime, viewer: Viewer): Promise<ClaimRule[]> {
  requireLead(viewer);
  return claimRules(db);
}

/** Adds a rule; it holds from each one's next sign-in on. @throws InvalidInput, NotFound */
export async function addRule({ db, clock }: Runtime, viewer: Viewer, values: Values): Promise<void> {
  requireLead(viewer);
  const { claim, value, gives, target = '' } = readInput(ClaimRuleInput, values);
  const [what, name] = gives.split(' ');
  const isScope = what === 'scope';
  const kind = name as ScopeKind;
  await writing(db, async (trx) => {
    if (isScope && kind !== 'all' && (kind === 'learner' || (await scopeTarget(trx, kind, target)) === null))
      throw new InvalidInput([{ field: 'target', message: `is no ${kind} that is known` }]);
    const rule = {
      claim,
      value,
      role: isScope ? null : (STAFF_ROLES.find((role) => role === name) ?? null),
      scope_kind: isScope ? kind : null,
      target: isScope && kind !== 'all' ? target : '',
    };
    const known = (await claimRules(trx)).map(sayRule);
    if (known.includes(sayRule(rule))) throw new InvalidInput([{ field: 'value', message: 'gives that already' }]);
    await addClaimRule(trx, rule);
    await addAudit(trx, {
      at: clock.now(),
      staff_id: viewer.staffId,
      what: 'set what a claim gives',
      subject: sayRule(rule),
    });
  });
}

/** Removes a rule; whoever it gave something keeps it until their next sign-in. @throws NotFound */
export async function removeRule({ db, clock }: Runtime, viewer: Viewer, id: number): Promise<void> {
  requireLead(viewer);
  await writing(db, async (trx) => {
    const rule = await removeClaimRule(trx, id);
    if (!rule) throw new NotFound('No such rule');
    await addAudit(trx, {
      at: clock.now(),
      staff_id: viewer.staffId,
      what: 'took away what a claim gave',
      subject: sayRule(rule),
    });
  });
}

/** Lets go of the word by which the provider knows somebody: their next sign-in is their first. @throws NotFound */
export async function letGoOfIdentity({ db, clock }: Runtime, viewer: Viewer, id: number): Promise<void> {
  requireLead(viewer);
  await writing(db, async (trx) => {
    const staff = await staffById(trx, id);
    if (!staff || (await dropIdentities(trx, id)) === 0) throw new NotFound('No such sign-in by the provider');
    await addAudit(trx, {
      at: clock.now(),
      staff_id: viewer.staffId,
      what: 'let go of who the provider says somebody is',
      subject: staff.external_id,
    });
  });
}

const ONLY = 'only_by_provider';

/** The lead who alone comes in with a password or a passkey, for emergencies; null where everybody does who has one. */
export async function emergencyLead(db: Db): Promise<number | null> {
  const kept = await readSetting(db, ONLY);
  return kept === null || kept === '' ? null : Number(kept);
}

/** May somebody come in without the provider? */
export async function mayEnterHere(db: Db, staffId: number): Promise<boolean> {
  const only = await emergencyLead(db);
  return only === null || only === staffId;
}

/**
 * Has everybody sign in by the provider, but for one lead who is kept for emergencies; what others have signed in with a password ends.
 *
 * @param sent the number of that lead; empty to let passwords in again
 * @throws InvalidInput where there is no provider, or that one cannot lead the programme with a password; NotFound
 */
export async function setOnlyByProvider({ db, clock, settings }: Runtime, viewer: Viewer, sent: string): Promise<void> {
  requireLead(viewer);
  const id = sent === '' ? null : Number(sent);
  await writing(db, async (trx) => {
    if (id !== null && settings.provider === null)
      throw new InvalidInput([{ field: 'provider', message: 'is not set (LEESHORE_OIDC_ISSUER)' }]);
    const staff = id === null ? null : await staffById(trx, id);
    if (id !== null && (!staff?.password_hash || staff.ended_at !== null || !isLead(await viewerOf(trx, staff))))
      throw new InvalidInput([{ field: 'lead', message: 'is nobody who leads the programme with a password' }]);
    await writeSetting(trx, ONLY, id === null ? '' : String(id));
    if (id !== null) await endPasswordSessions(trx, [id, viewer.staffId]);
    await addAudit(trx, {
      at: clock.now(),
      staff_id: viewer.staffId,
      what: id === null ? 'let passwords in again' : 'had everybody sign in by the provider',
      subject: staff ? `but for ${staff.external_id}` : '',
    });
  });
}

/** Does what changes an account, unless it takes the emergency's lead away. @throws InvalidInput */
export async function keepingEmergency(trx: Db, field: string, work: () => Promise<void>): Promise<void> {
  await work();
  const only = await emergencyLead(trx);
  const staff = only === null ? null : await staffById(trx, only);
  if (only === null) return;
  if (!staff?.password_hash || staff.ended_at !== null || !isLead(await viewerOf(trx, staff)))
    throw new InvalidInput([{ field, message: 'has to stay: they are the lead kept for emergencies' }]);
}
