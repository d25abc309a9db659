import type { Metadata } from 'next';
import { redirect } from 'next/navigation';
import { anyAccount } from '@/server/staff/reads';
import { runtime } from '@/server/runtime';
import { AccountForm } from '../sign-in/account-form';
import { begin } from '../sign-in/actions';
import { EMAIL, NEW_PASSWORD } from '../sign-in/fields';
import classes from '../sign-in/sign-in.module.css';

export const metadata: Metadata = { title: 'Welcome' };

const NAMES = [
  { name: 'given_name', label: 'Given name', autoComplete: 'given-name' },
  { name: 'family_name', label: 'Family name', autoComplete: 'family-name' },
];

export default async function WelcomePage() {
  if (await anyAccount(await runtime())) redirect('/sign-in');
  return (
    <main className={classes.page}>
      <h1>Welcome to Lee Shore</h1>
      <p className={classes.about}>
        Nobody has an account here yet. Make the first one: it leads the programme, sees everyone and can add the
        others.
      </p>
      <AccountForm action={begin} fields={[...NAMES, EMAIL, NEW_PASSWORD]} submit="Make the account" />
    </main>
  );
}
