/** Who is asking, in a page, an action or a handler of Next's. */
import { cookies, headers } from 'next/headers';
import { redirect } from 'next/navigation';
import { anyAccount } from '@/data/staff/staff';
import type { Viewer } from '@/data/scope';
import type { Origin } from '../staff/passkeys';
import { LOGIN_LENGTH } from '../staff/provider/said';
import { HALF_LENGTH } from '../staff/second-factor';
import { SESSION_COOKIE, SESSION_LENGTH, viewerBySession, type SignedIn } from '../staff/sessions';
import type { SignInFrom } from '../staff/sign-in-tries';
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

async function setSessionCookie(token: string, maxAge: number): Promise<void> {
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
async function setBrowserCookie(token: string): Promise<void> {
  const secure = await isSecure();
  (await cookies()).set(BROWSER_COOKIE, token, {
    httpOnly: true,
    sameSite: 'lax',
    secure,
    path: '/sign-in',
    maxAge: BROWSER_KEPT,
  });
}

const HALF_COOKIE = 'lee_shore_half';

/** The word of a sign-in whose second factor is still to be shown, as the browser sent it. */
export async function halfToken(): Promise<string | undefined> {
  return (await cookies()).get(HALF_COOKIE)?.value;
}

export async function setHalfCookie(half: string): Promise<void> {
  (await cookies()).set(HALF_COOKIE, half, {
    httpOnly: true,
    sameSite: 'strict',
    secure: await isSecure(),
    path: '/sign-in',
    maxAge: HALF_LENGTH / 1000,
  });
}

/** From where people come in by another service's word: each path has cookies of its own. */
type WayIn = '/sign-in/provider' | '/lti';

/** A cookie for each sign-in that is under way: two tabs may each have one. */
const loginCookie = (state: string) => `lee_shore_login_${state.slice(0, 12)}`;

/**
 * Has this browser known when it comes back from the provider, or from a platform. A platform has its page post to ours: only where
 * both are one site, or the cookie is for all, does it come with that.
 */
export async function setLoginCookie(way: WayIn, state: string): Promise<void> {
  const secure = await isSecure();
  (await cookies()).set(loginCookie(state), state, {
    httpOnly: true,
    sameSite: way === '/lti' && secure ? 'none' : 'lax',
    secure,
    path: way,
    maxAge: LOGIN_LENGTH / 1000,
  });
}

/** The word of a sign-in that is under way, which is good once. @param said the word that came back with it */
export async function takeLoginCookie(way: WayIn, said: string | null): Promise<string | undefined> {
  if (said === null || !/^[\w-]{20,200}$/.test(said)) return undefined;
  const jar = await cookies();
  const state = jar.get(loginCookie(said))?.value;
  jar.delete({ name: loginCookie(said), path: way });
  return state;
}

/** Signs the browser in, and knows it the next time. */
export async function setSignedIn({ token, browser }: SignedIn): Promise<void> {
  await setSessionCookie(token, SESSION_LENGTH / 1000);
  await setBrowserCookie(browser);
  (await cookies()).delete({ name: HALF_COOKIE, path: '/sign-in' });
}

/** Where the application is opened, as the browser that asks sees it. */
export async function ownOrigin(): Promise<Origin> {
  const sent = await headers();
  // A call says where its page is from, and was checked against the host before it came here.
  const origin = sent.get('origin') ?? `${(await isSecure()) ? 'https' : 'http'}://${sent.get('host') ?? 'localhost'}`;
  return { origin, host: URL.parse(origin)?.hostname ?? '' };
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
