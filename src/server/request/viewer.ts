/** Who is asking, in a page, an action or a handler of Next's. */
import { cookies, headers } from 'next/headers';
import { redirect } from 'next/navigation';
import { anyAccount } from '@/data/staff/staff';
import type { Viewer } from '@/data/scope';
import { SESSION_COOKIE, viewerBySession, type SignInFrom } from '../staff/accounts';
import { runtime } from '../runtime';

/** The session's token as the browser sent it. */
export async function sessionToken(): Promise<string | undefined> {
  return (await cookies()).get(SESSION_COOKIE)?.value;
}

/** The signed-in viewer, or null. @param byItself asked by an open page, not by somebody at it */
export async function currentViewer(byItself = false): Promise<Viewer | null> {
  const token = await sessionToken();
  return token ? viewerBySession(await runtime(), token, byItself) : null;
}

/** The signed-in viewer; anybody else is sent to sign in (or to make the first account). */
export async function requireViewer(): Promise<Viewer> {
  const viewer = await currentViewer();
  if (viewer) return viewer;
  redirect((await anyAccount((await runtime()).db)) ? '/sign-in' : '/welcome');
}

export async function setSessionCookie(token: string, maxAge: number): Promise<void> {
  const secure = await isSecure();
  (await cookies()).set(SESSION_COOKIE, token, { httpOnly: true, sameSite: 'lax', secure, path: '/', maxAge });
}

/** Did the person's own browser speak TLS? Each proxy adds what it saw; the first says what the browser spoke. */
async function isSecure(): Promise<boolean> {
  return (await headers()).get('x-forwarded-proto')?.split(',')[0].trim().toLowerCase() === 'https';
}

const BROWSER_COOKIE = 'lee_shore_browser';
const BROWSER_KEPT = 400 * 24 * 3600;

/** Where a try to sign in comes from. */
export async function signInFrom(): Promise<SignInFrom> {
  return {
    address: await clientAddress(),
    browser: (await cookies()).get(BROWSER_COOKIE)?.value ?? null,
    agent: (await headers()).get('user-agent') ?? '',
  };
}

/** Has this browser known again the next time that somebody signs in. */
export async function setBrowserCookie(token: string): Promise<void> {
  const secure = await isSecure();
  (await cookies()).set(BROWSER_COOKIE, token, {
    httpOnly: true,
    sameSite: 'lax',
    secure,
    path: '/sign-in',
    maxAge: BROWSER_KEPT,
  });
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
