import type { Metadata } from 'next';
import Link from 'next/link';
import { redirect } from 'next/navigation';
import { halfToken, ownOrigin } from '@/server/request/viewer';
import { runtime } from '@/server/runtime';
import { noPasskeysAt } from '@/server/staff/passkeys';
import { offerCodes, readHalf } from '@/server/staff/second-factor';
import { AccountForm } from '../account-form';
import { enterCode, goOnIn } from '../actions';
import { ByPasskey } from '../by-passkey';
import classes from '../sign-in.module.css';
import { SetUpAtSignIn } from './set-up-at-sign-in';

export const metadata: Metadata = { title: 'Second factor' };

/** After the password: a code, a passkey, or setting up what one's role is asked for. */
export default async function SecondPage() {
  const half = await readHalf(await runtime(), await halfToken());
  if (!half) redirect('/sign-in');
  const { staff, factors, isToSetUp, isShown } = half;
  return (
    <main className={classes.page}>
      <h1>{isToSetUp ? 'Set up a second factor' : 'One more step'}</h1>
      {isShown ? (
        <>
          <p className={classes.about}>
            Your second factor is set up. Recovery codes can be made anew under your name.
          </p>
          <AccountForm action={goOnIn} fields={[]} submit="Go on" />
        </>
      ) : isToSetUp ? (
        <SetUpAtSignIn offered={await offerCodes(staff.email)} role={staff.role} />
      ) : (
        <>
          {(factors.codes || factors.recovery > 0) && (
            <>
              <p className={classes.about}>
                {factors.codes
                  ? 'Type the six digits that your app shows, or one of your recovery codes.'
                  : 'Use your passkey, or type one of your recovery codes.'}
              </p>
              <AccountForm
                action={enterCode}
                fields={[{ name: 'code', label: 'Code', autoComplete: 'one-time-code' }]}
                submit="Sign in"
              />
            </>
          )}
          {factors.passkeys > 0 && <ByPasskey without={noPasskeysAt(await ownOrigin())} second />}
          <p className={classes.other}>
            Lost what shows it, and no recovery code left? Somebody who leads the programme can take it off.
          </p>
        </>
      )}
      <p className={classes.other}>
        <Link href="/sign-in">Back to signing in</Link>
      </p>
    </main>
  );
}
