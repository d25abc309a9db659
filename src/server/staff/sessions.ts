/** Being signed in: a session for each browser, stored only as its hash. */
import { randomBytes } from 'node:crypto';
import { sayAgent } from '@/core/staff/agent';
import { DAY, MINUTE } from '@/core/time/zone';
import { type Db } from '@/data/db';
import type { Viewer } from '@/data/scope';
import {
  OPENED_BY,
  addSession,
  endSession,
  isByProvider,
  knowBrowser,
  noteSeen,
  staffBySession,
  viewerOf,
} from '@/data/staff/staff';
import type { Runtime } from '../runtime';
import { hashToken, type SignInFrom } from './sign-in-tries';

/** How long a sign-in lasts, in ms. */
export const SESSION_LENGTH = 14 * DAY;
/** How often it is noted that a session is in use. */
const SEEN_AGAIN = 5 * MINUTE;

/** The cookie that holds a session's token. */
export const SESSION_COOKIE = 'lee_shore_session';

export interface SignedIn {
  /** The session's token, which is stored only as its hash. */
  token: string;
  /** The browser's own token, by which it is known the next time. */
  browser: string;
}

/**
 * Opens a session for somebody who has shown who they are, and knows their browser from now on.
 * @param by whose word it was
 */
export async function openSession(
  trx: Db,
  staffId: number,
  from: SignInFrom,
  now: number,
  by: keyof typeof OPENED_BY = 'password',
): Promise<SignedIn> {
  const token = randomBytes(32).toString('base64url');
  const browser = from.browser ?? randomBytes(32).toString('base64url');
  await knowBrowser(trx, hashToken(browser), staffId, now);
  await addSession(trx, {
    token_hash: hashToken(token),
    staff_id: staffId,
    created_at: now,
    expires_at: now + SESSION_LENGTH,
    handle: randomBytes(12).toString('hex'),
    agent: sayAgent(from.agent),
    by_provider: OPENED_BY[by],
  });
  return { token, browser };
}

/** Ends a session. Returns whether it was opened by a provider's word. */
export async function signOut(db: Db, token: string): Promise<boolean> {
  const byProvider = await isByProvider(db, hashToken(token));
  await endSession(db, hashToken(token));
  return byProvider;
}

/**
 * Whose session a token is; null when it ended or never was.
 *
 * @param byItself asked by an open page and by nobody at it: that is no use of the session
 */
export async function viewerBySession({ db, clock }: Runtime, token: string, byItself = false): Promise<Viewer | null> {
  const now = clock.now();
  const staff = await staffBySession(db, hashToken(token), now);
  if (!staff) return null;
  // A sign-in is said to have been used lately, not exactly when: that would be a write for each page.
  if (!byItself && now - staff.seen_at > SEEN_AGAIN) await noteSeen(db, hashToken(token), now).catch(() => undefined);
  return viewerOf(db, staff, staff.names_hidden === 1);
}
