/** Covered names: the switch, for one session. */
import { setCovered } from '@/data/staff/staff';
import { hashToken } from '../staff/accounts';
import type { Runtime } from '../runtime';

/** Covers every name in what a session is shown from now on, or uncovers them. */
export async function coverNames({ db }: Runtime, token: string, covered: boolean): Promise<void> {
  await setCovered(db, hashToken(token), covered);
}
