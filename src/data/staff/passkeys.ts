/** Passkeys (Web Authentication): their public keys, and what they are asked to sign. */
import type { Db } from '../db';

export interface Passkey {
  id: number;
  staff_id: number;
  credential_id: string;
  /** COSE, in base64url. */
  public_key: string;
  counter: number;
  /** Ways to reach it, as the browser told, separated by commas. */
  transports: string;
  name: string;
  made_at: number;
  used_at: number | null;
}

export async function passkeysOf(db: Db, staffId: number): Promise<Passkey[]> {
  return db('passkey').where({ staff_id: staffId }).orderBy('id').select('*');
}

export async function passkeyByCredential(db: Db, credentialId: string): Promise<Passkey | null> {
  return (await db<Passkey>('passkey').where({ credential_id: credentialId }).first()) ?? null;
}

/** Keeps a passkey; false for one that is kept already. */
export async function addPasskey(trx: Db, passkey: Omit<Passkey, 'id' | 'used_at'>): Promise<boolean> {
  if (await passkeyByCredential(trx, passkey.credential_id)) return false;
  await trx('passkey').insert(passkey);
  return true;
}

/** Notes that it was used, and how often by its own count: one that counts backwards was copied. */
export async function notePasskey(trx: Db, id: number, counter: number, at: number): Promise<void> {
  await trx('passkey').where({ id }).update({ counter, used_at: at });
}

/** Takes a passkey of somebody's off; its name, or null where it is none of theirs. */
export async function removePasskey(trx: Db, staffId: number, id: number): Promise<string | null> {
  const row = await trx('passkey').where({ id, staff_id: staffId }).first('name');
  if (row) await trx('passkey').where({ id }).delete();
  return row?.name ?? null;
}

/** Challenges that are open at most: nobody fills the database by asking. */
const MOST_OPEN = 10_000;

/**
 * Keeps a challenge. @param staffId who may answer it; null for anybody's passkey
 * @returns false where too many are open
 */
export async function addChallenge(
  trx: Db,
  challenge: string,
  staffId: number | null,
  { now, expires_at }: { now: number; expires_at: number },
): Promise<boolean> {
  await trx('passkey_challenge').where('expires_at', '<', now).delete();
  const [{ open }] = await trx('passkey_challenge').count({ open: '*' });
  if (Number(open) >= MOST_OPEN) return false;
  await trx('passkey_challenge').insert({ challenge, staff_id: staffId, expires_at });
  return true;
}

/** Uses a challenge up; false for one that is over, of somebody else, or was never made. */
export async function takeChallenge(trx: Db, challenge: string, staffId: number | null, now: number): Promise<boolean> {
  const taken = await trx('passkey_challenge')
    .where({ challenge, staff_id: staffId })
    .where('expires_at', '>', now)
    .delete();
  return taken > 0;
}
