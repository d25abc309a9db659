/** What somebody shows beside their password: codes by time, codes on paper and passkeys. */
import { countOf, type Db } from '../db';

/** What somebody has to show. */
export interface Factors {
  /** An app on a telephone that shows codes. */
  codes: boolean;
  passkeys: number;
  /** Codes on paper that are left. */
  recovery: number;
}

export async function factorsOf(db: Db, staffId: number): Promise<Factors> {
  const of = { staff_id: staffId };
  const [codes, passkeys, recovery] = await Promise.all([
    countOf(db('one_time_secret').where(of)),
    countOf(db('passkey').where(of)),
    countOf(db('recovery_code').where(of).whereNull('used_at')),
  ]);
  return { codes: codes > 0, passkeys, recovery };
}

/** Numbers of the staff who have a second factor. */
export async function whoHasSecond(db: Db): Promise<Set<number>> {
  const [codes, passkeys] = await Promise.all([
    db('one_time_secret').pluck('staff_id'),
    db('passkey').pluck('staff_id'),
  ]);
  return new Set([...codes, ...passkeys]);
}

export async function secretOf(db: Db, staffId: number): Promise<{ secret: string; last_step: number } | null> {
  return (await db('one_time_secret').where({ staff_id: staffId }).first('secret', 'last_step')) ?? null;
}

/** Keeps somebody's secret in place of the one before. @param step of the code that they have shown by it */
export async function keepSecret(
  trx: Db,
  staffId: number,
  { secret, step, at }: { secret: string; step: number; at: number },
): Promise<void> {
  await trx('one_time_secret')
    .insert({ staff_id: staffId, secret, made_at: at, last_step: step })
    .onConflict('staff_id')
    .merge();
}

export async function dropSecret(trx: Db, staffId: number): Promise<void> {
  await trx('one_time_secret').where({ staff_id: staffId }).delete();
}

/** Takes the code of a step; false where it, or a later one, was taken already. */
export async function takeStep(trx: Db, staffId: number, step: number): Promise<boolean> {
  const taken = await trx('one_time_secret')
    .where({ staff_id: staffId })
    .where('last_step', '<', step)
    .update({ last_step: step });
  return taken === 1;
}

/** Keeps codes on paper in place of those before. */
export async function keepRecoveryCodes(trx: Db, staffId: number, hashes: readonly string[]): Promise<void> {
  await trx('recovery_code').where({ staff_id: staffId }).delete();
  await trx('recovery_code').insert(hashes.map((code_hash) => ({ staff_id: staffId, code_hash })));
}

/** Uses a code on paper up; false for one that is none of theirs, or was used. */
export async function spendRecoveryCode(trx: Db, staffId: number, hash: string, at: number): Promise<boolean> {
  const used = await trx('recovery_code')
    .where({ staff_id: staffId, code_hash: hash })
    .whereNull('used_at')
    .update({ used_at: at });
  return used === 1;
}

/** Takes all of somebody's second factors off. Returns whether there were any. */
export async function dropFactors(trx: Db, staffId: number): Promise<boolean> {
  let count = 0;
  for (const table of ['one_time_secret', 'recovery_code', 'passkey', 'half_sign_in'] as const)
    count += await trx(table).where({ staff_id: staffId }).delete();
  return count > 0;
}

/** Keeps that somebody's password was right; those that are over go. */
export async function addHalf(
  trx: Db,
  half: { token_hash: string; staff_id: number; expires_at: number },
  now: number,
): Promise<void> {
  await trx('half_sign_in').where('expires_at', '<', now).delete();
  await trx('half_sign_in').insert(half);
}

/** Whose password was right, and whether the second factor was shown as it was set up; null for what is over or was never. */
export async function halfByToken(
  db: Db,
  tokenHash: string,
  now: number,
): Promise<{ staff_id: number; is_shown: number } | null> {
  const row = await db('half_sign_in')
    .where('token_hash', tokenHash)
    .where('expires_at', '>', now)
    .first('staff_id', 'is_shown');
  return row ?? null;
}

/** Notes that the second factor was shown. */
export async function noteShown(trx: Db, tokenHash: string): Promise<void> {
  await trx('half_sign_in').where('token_hash', tokenHash).update({ is_shown: 1 });
}

/** Ends it; false where it was ended already. */
export async function endHalf(trx: Db, tokenHash: string): Promise<boolean> {
  return (await trx('half_sign_in').where('token_hash', tokenHash).delete()) > 0;
}

/** Ends every half sign-in of somebody: their password is another now. */
export async function endHalvesOf(trx: Db, staffId: number): Promise<void> {
  await trx('half_sign_in').where({ staff_id: staffId }).delete();
}

/** Ends the sign-ins of those of some roles who have no second factor. Returns how many people that were. */
export async function endSessionsWithoutSecond(trx: Db, roles: readonly string[]): Promise<number> {
  const without = () =>
    trx('staff')
      .whereIn('role', roles)
      .whereNotIn('id', trx('one_time_secret').select('staff_id'))
      .whereNotIn('id', trx('passkey').select('staff_id'))
      .select('id');
  const people = await countOf(
    trx('staff').whereIn('id', without()).whereIn('id', trx('session_token').select('staff_id')),
  );
  await trx('session_token').whereIn('staff_id', without()).delete();
  return people;
}
