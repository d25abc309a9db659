import type { Metadata } from 'next';
import { redirect } from 'next/navigation';
import { anyAccount } from '@/server/staff/reads';
import { runtime } from '@/server/runtime';
import { AccountForm } from '../sign-in/account-form';
import { begin } from '../sign-in/actions';
import classes from '../sign-in/sign-in.module.css';

export const metadata: Metadata = { title: 'Welcome' };

export default async function WelcomePage() {
  if (await anyAccount(await runtime())) redirect('/sign-in');
  return (
    <main className={classes.page}>
      <h1>Welcome to Lee Shore</h1>
      <p className={classes.about}>
        Nobody has an account here yet. Make the first one: it leads the programme, sees everyone and can add the
        others.
      </p>
      <AccountForm action={begin} submit="Make the account" first />
    </main>
  );
}
