import type { Metadata } from 'next';
import Link from 'next/link';
import { NotFound } from '@/server/request/input';
import { runtime } from '@/server/runtime';
import { openLink } from '@/server/staff/password-links';
import { AccountForm } from '../../account-form';
import { choosePassword } from '../../actions';
import { EMAIL, NEW_PASSWORD } from '../../fields';
import classes from '../../sign-in.module.css';

export const metadata: Metadata = { title: 'Choose a password', referrer: 'no-referrer' };

/** Where the link of an invitation leads: opening it uses nothing up, since mail programs open links too. */
export default async function PasswordPage({ params }: { params: Promise<{ token: string }> }) {
  const { token } = await params;
  const link = await openLink(await runtime(), token).catch((error: unknown) => {
    if (error instanceof NotFound) return null;
    throw error;
  });
  return (
    <main className={classes.page}>
      {link === null ? (
        <>
          <h1>This link is not good any more</h1>
          <p className={classes.about}>
            It works once, and for 72 hours; a newer one takes its place. Ask for another, or for an invitation from
            somebody who leads the programme.
          </p>
          <p className={classes.other}>
            <Link href="/sign-in/forgotten">Ask for another</Link> · <Link href="/sign-in">Sign in</Link>
          </p>
        </>
      ) : (
        <>
          <h1>{link.kind === 'invitation' ? `Come in, ${link.name}` : 'Choose a new password'}</h1>
          <p className={classes.about}>
            {link.kind === 'invitation'
              ? 'Choose a password of your own. You sign in with it and this e-mail address.'
              : 'Everything that is signed in with the old one ends.'}
          </p>
          <AccountForm
            action={choosePassword}
            fields={[{ ...EMAIL, value: link.email }, NEW_PASSWORD]}
            hidden={{ token }}
            submit="Set the password"
          />
        </>
      )}
    </main>
  );
}
