'use server';

import { redirect } from 'next/navigation';
import { makeFirstLead, signIn } from '@/server/staff/accounts';
import { askPasskey, signInByPasskey } from '@/server/staff/passkeys';
import { leaveProvider } from '@/server/staff/provider/sign-in';
import { askForgotten, setPasswordByLink } from '@/server/staff/password-links';
import { goOn, setUpAtSignIn, showCode } from '@/server/staff/second-factor';
import { signOut } from '@/server/staff/sessions';
import { SignInRefused } from '@/server/staff/sign-in-tries';
import { InvalidInput, NotFound, formOf, type FieldFault } from '@/server/request/input';
import { resultOf, type Result } from '@/server/request/action';
import { runtime } from '@/server/runtime';
import { troubleOf } from '@/server/request/trouble';
import {
  clearSessionCookie,
  halfToken,
  ownOrigin,
  setHalfCookie,
  setSignedIn,
  signInFrom,
} from '@/server/request/viewer';

export interface SignInState {
  message: string | null;
  errors: FieldFault[];
  /** What had been typed, but never the password. */
  values: Record<string, string>;
}

const OVER = 'That took too long, or was done elsewhere. Sign in again.';

/** Does what a form asks for and goes on to where it says; what was wrong is said in the form. */
async function trying(form: FormData, work: () => Promise<string>): Promise<SignInState> {
  const values = Object.fromEntries(
    [...form]
      .filter(([name]) => name !== 'password' && !name.startsWith('$'))
      .map(([name, value]) => [name, String(value)]),
  );
  let next: string;
  try {
    next = await work();
  } catch (error) {
    if (error instanceof SignInRefused) return { message: error.message, errors: [], values };
    if (error instanceof InvalidInput) return { message: null, errors: error.errors, values };
    if (error instanceof NotFound) return { message: OVER, errors: [], values };
    const trouble = troubleOf(error);
    if (trouble) return { message: trouble.detail, errors: [], values };
    throw error;
  }
  redirect(next);
}

/** Signs in by e-mail and password. Returns where to go on: to the second factor, where one is asked for. */
async function openSession(form: FormData, next: string): Promise<string> {
  const done = await signIn(await runtime(), Object.fromEntries(form), await signInFrom());
  if ('half' in done) {
    await setHalfCookie(done.half);
    return '/sign-in/second';
  }
  await setSignedIn(done);
  return next;
}

export async function enter(_before: SignInState, sent: FormData): Promise<SignInState> {
  const form = formOf(sent);
  return trying(form, () => openSession(form, '/'));
}

/** The first lead's account, on an empty installation; signs them in. */
export async function begin(_before: SignInState, sent: FormData): Promise<SignInState> {
  const form = formOf(sent);
  return trying(form, async () => {
    await makeFirstLead(await runtime(), Object.fromEntries(form));
    // Nobody is known yet: bringing something in comes first.
    return openSession(form, '/set-up/data');
  });
}

/** The second factor: a code by time, or one on paper. */
export async function enterCode(_before: SignInState, sent: FormData): Promise<SignInState> {
  const form = formOf(sent);
  return trying(form, async () => {
    const values = Object.fromEntries(form);
    await setSignedIn(await showCode(await runtime(), await halfToken(), values, await signInFrom()));
    return '/';
  });
}

/** Sets up the second factor that one's role is asked for. Returns the codes on paper. */
export async function setUpCodes(values: { secret: string; code: string }): Promise<Result<string[]>> {
  return resultOf(async () => setUpAtSignIn(await runtime(), await halfToken(), { ...values }));
}

/** Signs in whoever has just set up their second factor. */
export async function goOnIn(_before: SignInState, sent: FormData): Promise<SignInState> {
  return trying(formOf(sent), async () => {
    await setSignedIn(await goOn(await runtime(), await halfToken(), await signInFrom()));
    return '/';
  });
}

/** What the browser asks of a device. @param isSecond after a password */
export async function askForPasskey(isSecond: boolean) {
  return resultOf(async () => {
    const half = isSecond === true ? ((await halfToken()) ?? '') : undefined;
    return askPasskey(await runtime(), await ownOrigin(), half);
  });
}

export async function enterByPasskey(answer: unknown, isSecond: boolean): Promise<Result> {
  return resultOf(async () => {
    const half = isSecond === true ? ((await halfToken()) ?? '') : undefined;
    await setSignedIn(await signInByPasskey(await runtime(), await ownOrigin(), answer, await signInFrom(), half));
  });
}

/** Has a link mailed to whoever has forgotten their password, where there is such an account. */
export async function forget(_before: SignInState, sent: FormData): Promise<SignInState> {
  const form = formOf(sent);
  return trying(form, async () => {
    await askForgotten(await runtime(), Object.fromEntries(form));
    return '/sign-in/forgotten?asked=yes';
  });
}

/** Sets a password by the link that was mailed. */
export async function choosePassword(_before: SignInState, sent: FormData): Promise<SignInState> {
  const form = formOf(sent);
  return trying(form, async () => {
    const values = Object.fromEntries(form);
    await setPasswordByLink(await runtime(), String(values.token), values);
    return '/sign-in?set=yes';
  });
}

export async function leave(): Promise<void> {
  const token = await clearSessionCookie();
  const opened = await runtime();
  const byProvider = token !== undefined && (await signOut(opened.db, token));
  redirect((byProvider && (await leaveProvider(opened))) || '/sign-in');
}
