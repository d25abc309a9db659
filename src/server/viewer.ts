/** Who is asking, in a page, an action or a handler of Next's. */
import { cookies, headers } from 'next/headers';
import { redirect } from 'next/navigation';
import { anyAccount } from '@/data/staff';
import type { Viewer } from '@/data/scope';
import { viewerBySession } from './accounts';
import { runtime } from './runtime';

export const SESSION_COOKIE = 'lee_shore_session';

/** The session's token as the browser sent it. */
export async function sessionToken(): Promise<string | undefined> {
  return (await cookies()).get(SESSION_COOKIE)?.value;
}

/** The signed-in viewer, or null. */
export async function currentViewer(): Promise<Viewer | null> {
  const token = await sessionToken();
  return token ? viewerBySession(await runtime(), token) : null;
}

/** The signed-in viewer; anybody else is sent to sign in (or to make the first account). */
export async function requireViewer(): Promise<Viewer> {
  const viewer = await currentViewer();
  if (viewer) return viewer;
  redirect((await anyAccount((await runtime()).db)) ? '/sign-in' : '/welcome');
}

export async function setSessionCookie(token: string, maxAge: number): Promise<void> {
  const secure = (await headers()).get('x-forwarded-proto') === 'https';
  (await cookies()).set(SESSION_COOKIE, token, { httpOnly: true, sameSite: 'lax', secure, path: '/', maxAge });
}

export async function clearSessionCookie(): Promise<string | undefined> {
  const jar = await cookies();
  const token = jar.get(SESSION_COOKIE)?.value;
  jar.delete(SESSION_COOKIE);
  return token;
}

/** The address a request comes from, as far as the nearest proxy tells. */
export async function clientAddress(): Promise<string> {
  return (await headers()).get('x-forwarded-for')?.split(',').at(-1)?.trim() ?? 'local';
}
