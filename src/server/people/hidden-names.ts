/** hidden names: the switch, for one session. */
import { storeNamesHidden } from '@/data/staff/staff';
import { hashToken } from '../staff/sign-in-tries';
import type { Runtime } from '../runtime';

/** Hides every name in what a session is shown from now on, or show them. */
export async function setNamesHidden({ db }: Runtime, token: string, namesHidden: boolean): Promise<void> {
  await storeNamesHidden(db, hashToken(token), namesHidden);
}
