/** Whom a provider of sign-ins knows as whom here, and what its claims mean. */
import type { ScopeKind, StaffRole } from '@/core/staff/roles';
import type { Db } from '../db';
import { countOf } from '../db';

export interface Identity {
  id: number;
  staff_id: number;
}

export async function identityOf(db: Db, issuer: string, subject: string): Promise<Identity | null> {
  return (await db('identity').where({ issuer, subject }).first('id', 'staff_id')) ?? null;
}

/** Does the provider know somebody here under some word already? */
export async function hasIdentity(db: Db, issuer: string, staffId: number): Promise<boolean> {
  return (await countOf(db('identity').where({ issuer, staff_id: staffId }))) > 0;
}

export async function addIdentity(
  trx: Db,
  identity: { staff_id: number; issuer: string; subject: string; linked_at: number },
): Promise<void> {
  await trx('identity').insert({ ...identity, used_at: identity.linked_at });
}

export async function noteIdentityUsed(trx: Db, id: number, at: number): Promise<void> {
  await trx('identity').where({ id }).update({ used_at: at });
}

/** Takes somebody's identities off, so that the provider may know them under another word. Returns how many there were. */
export async function dropIdentities(trx: Db, staffId: number): Promise<number> {
  return trx('identity').where({ staff_id: staffId }).delete();
}

/** Takes off every identity by one issuer. */
export async function dropIdentitiesBy(trx: Db, issuer: string): Promise<void> {
  await trx('identity').where({ issuer }).delete();
}

/** Numbers of the staff whom a provider knows. */
export async function whoHasIdentity(db: Db): Promise<Set<number>> {
  return new Set(await db('identity').pluck('staff_id'));
}

/** A sign-in that goes to the provider, or to a platform. */
export interface ProviderLogin {
  nonce: string;
  /** Of the proof by which a code is exchanged; empty where no code is. */
  verifier: string;
  /** Null for the provider of single sign-on. */
  platform_id: number | null;
}

/** Sign-ins that are on their way at most: nobody fills the database by asking. */
const MOST_OPEN = 20_000;

/** Keeps one; those that are over go. Returns false where too many are open. */
export async function addLogin(
  trx: Db,
  login: ProviderLogin & { state_hash: string; expires_at: number },
  now: number,
): Promise<boolean> {
  await trx('provider_login').where('expires_at', '<', now).delete();
  if ((await countOf(trx('provider_login'))) >= MOST_OPEN) return false;
  await trx('provider_login').insert(login);
  return true;
}

/** Uses one up; null for one that is over, was used, or was never made. */
export async function takeLogin(trx: Db, stateHash: string, now: number): Promise<ProviderLogin | null> {
  const row = await trx('provider_login')
    .where('state_hash', stateHash)
    .where('expires_at', '>', now)
    .first('nonce', 'verifier', 'platform_id');
  await trx('provider_login').where('state_hash', stateHash).delete();
  return row ?? null;
}

/** What a claim with a value means: a role, or a scope. */
export interface ClaimRule {
  id: number;
  claim: string;
  value: string;
  role: StaffRole | null;
  scope_kind: ScopeKind | null;
  /** `DRY`, `DRY/A`, an organisation's name; empty for everyone, and for a role. */
  target: string;
}

export async function claimRules(db: Db): Promise<ClaimRule[]> {
  return db('claim_rule').orderBy(['claim', 'value', 'id']).select('*');
}

export async function addClaimRule(trx: Db, rule: Omit<ClaimRule, 'id'>): Promise<void> {
  await trx('claim_rule').insert(rule);
}

/** Removes a rule; null where there is none. */
export async function removeClaimRule(trx: Db, id: number): Promise<ClaimRule | null> {
  const row: ClaimRule | undefined = await trx('claim_rule').where({ id }).first();
  if (row) await trx('claim_rule').where({ id }).delete();
  return row ?? null;
}

/** A scope as a claim gives it. */
export interface ClaimedScope {
  kind: ScopeKind;
  targetId: number | null;
}

/** Scopes that claims of the provider gave, as against those of launches and of people, which are 0. */
const BY_CLAIM = 1;

const COLUMNS = {
  organisation: 'organisation_id',
  course: 'course_id',
  group: 'group_id',
  learner: 'learner_id',
} as const;

/** Puts the scopes of claims in place of those of the claims before; those given by hand stay. Returns whether anything changed. */
export async function setClaimedScopes(trx: Db, staffId: number, scopes: readonly ClaimedScope[]): Promise<boolean> {
  const rows = scopes.map(({ kind, targetId }) => ({
    staff_id: staffId,
    kind,
    ...(kind === 'all' ? {} : { [COLUMNS[kind]]: targetId }),
    by_claim: BY_CLAIM,
  }));
  const keyOf = (row: Partial<Record<string, unknown>>) =>
    [row.kind, row.organisation_id, row.course_id, row.group_id, row.learner_id].map((part) => part ?? '').join(' ');
  const before = await trx('staff_scope').where({ staff_id: staffId });
  const wanted = new Map(rows.map((row) => [keyOf(row), row]));
  const gone = before.filter((row) => row.by_claim === BY_CLAIM && !wanted.has(keyOf(row)));
  for (const row of before) wanted.delete(keyOf(row));
  const ids = gone.map(({ id }) => id);
  await trx('staff_scope').whereIn('id', ids).delete();
  for (const row of wanted.values()) await trx('staff_scope').insert(row);
  return gone.length + wanted.size > 0;
}
