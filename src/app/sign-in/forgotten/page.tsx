import type { Metadata } from 'next';
import Link from 'next/link';
import { runtime } from '@/server/runtime';
import { cannotMail } from '@/server/staff/tell-staff';
import { AccountForm } from '../account-form';
import { forget } from '../actions';
import { EMAIL } from '../fields';
import classes from '../sign-in.module.css';

export const metadata: Metadata = { title: 'Forgotten password' };

type SearchParams = Promise<Record<string, string | string[] | undefined>>;

/** A link to set a new password, by mail; it answers alike for known and unknown. */
export default async function ForgottenPage({ searchParams }: { searchParams: SearchParams }) {
  const { settings } = await runtime();
  const { asked } = await searchParams;
  return (
    <main className={classes.page}>
      <h1>Forgotten your password?</h1>
      {cannotMail(settings) !== null ? (
        <p className={classes.about}>
          No mail can be sent from here. Ask somebody who leads the programme: they can set a new one for you.
        </p>
      ) : asked ? (
        <p role="status" className={classes.about}>
          If there is an account with that e-mail and a password, a link to choose a new one is on its way. It works
          once, and for 72 hours. Nothing comes? Then ask somebody who leads the programme.
        </p>
      ) : (
        <>
          <p className={classes.about}>A link to choose a new one is mailed to you.</p>
          <AccountForm action={forget} fields={[EMAIL]} submit="Mail me a link" />
        </>
      )}
      <p className={classes.other}>
        <Link href="/sign-in">Back to signing in</Link>
      </p>
    </main>
  );
}
