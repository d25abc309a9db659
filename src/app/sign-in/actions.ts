'use server';

import { redirect } from 'next/navigation';
import { SESSION_LENGTH, SignInRefused, makeFirstLead, signIn, signOut } from '@/server/staff/accounts';
import { InvalidInput, formOf, type FieldFault } from '@/server/request/input';
import { runtime } from '@/server/runtime';
import { troubleOf } from '@/server/request/trouble';
import { clearSessionCookie, setBrowserCookie, setSessionCookie, signInFrom } from '@/server/request/viewer';

export interface SignInState {
  message: string | null;
  errors: FieldFault[];
  /** What had been typed, but never the password. */
  values: Record<string, string>;
}

async function trying(form: FormData, work: () => Promise<void>, next = '/'): Promise<SignInState> {
  const values = Object.fromEntries(
    [...form]
      .filter(([name]) => name !== 'password' && !name.startsWith('$'))
      .map(([name, value]) => [name, String(value)]),
  );
  try {
    await work();
  } catch (error) {
    if (error instanceof SignInRefused) return { message: error.message, errors: [], values };
    if (error instanceof InvalidInput) return { message: null, errors: error.errors, values };
    const trouble = troubleOf(error);
    if (trouble) return { message: trouble.detail, errors: [], values };
    throw error;
  }
  redirect(next);
}

async function openSession(form: FormData): Promise<void> {
  const { token, browser } = await signIn(await runtime(), Object.fromEntries(form), await signInFrom());
  await setSessionCookie(token, SESSION_LENGTH / 1000);
  await setBrowserCookie(browser);
}

export async function enter(_before: SignInState, sent: FormData): Promise<SignInState> {
  const form = formOf(sent);
  return trying(form, () => openSession(form));
}

/** The first lead's account, on an empty installation; signs them in. */
export async function begin(_before: SignInState, sent: FormData): Promise<SignInState> {
  const form = formOf(sent);
  return trying(
    form,
    async () => {
      await makeFirstLead(await runtime(), Object.fromEntries(form));
      await openSession(form);
      // Nobody is known yet: bringing something in comes first.
    },
    '/set-up/data',
  );
}

export async function leave(): Promise<void> {
  const token = await clearSessionCookie();
  if (token) await signOut((await runtime()).db, token);
  redirect('/sign-in');
}
