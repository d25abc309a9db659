import { Button } from '@mantine/core';
import type { Metadata } from 'next';
import Link from 'next/link';
import { redirect } from 'next/navigation';
import { anyAccount, emergency } from '@/server/staff/reads';
import { demoSignIns } from '@/server/staff/demo-sign-ins';
import { runtime } from '@/server/runtime';
import { noPasskeysAt } from '@/server/staff/passkeys';
import { currentViewer, ownOrigin } from '@/server/request/viewer';
import { AccountForm } from './account-form';
import { enter } from './actions';
import { ByPasskey } from './by-passkey';
import { EMAIL, PASSWORD } from './fields';
import classes from './sign-in.module.css';

type SearchParams = Promise<Record<string, string | string[] | undefined>>;

export const metadata: Metadata = { title: 'Sign in' };

export default async function SignInPage({ searchParams }: { searchParams: SearchParams }) {
  const opened = await runtime();
  if (await currentViewer()) redirect('/watch');
  if (!(await anyAccount(opened))) redirect('/welcome');
  const [demo, only, asked] = await Promise.all([demoSignIns(opened.settings), emergency(opened), searchParams]);
  const { provider } = opened.settings;
  const isOnly = provider !== null && only !== null && !asked.password;
  return (
    <main className={classes.page}>
      <h1>Lee Shore</h1>
      <p className={classes.about}>Who is drifting away, why, and what brought them back.</p>
      {asked.set && (
        <p role="status" className={classes.about}>
          Your password is set: sign in with it.
        </p>
      )}
      {provider !== null && (
        // A plain link: it leads to another server.
        <Button component="a" href="/sign-in/provider" fullWidth mb="md" variant={isOnly ? 'filled' : 'default'}>
          Sign in with {provider.name}
        </Button>
      )}
      {isOnly ? (
        <p className={classes.other}>
          <Link href="/sign-in?password=yes">With a password, in an emergency</Link>
        </p>
      ) : (
        <>
          <AccountForm action={enter} fields={[EMAIL, PASSWORD]} submit="Sign in" />
          <ByPasskey without={noPasskeysAt(await ownOrigin())} />
          <p className={classes.other}>
            <Link href="/sign-in/forgotten">Forgotten your password?</Link>
          </p>
        </>
      )}
      {demo && (
        <section className={classes.demo} aria-label="Sign-ins of the demo">
          <h2>This is the demo</h2>
          <p>Everybody in it is made up. Sign in as one of these; the password is the same for all:</p>
          <p>
            <code>{demo.password}</code>
          </p>
          <table>
            <tbody>
              {demo.accounts.map((account) => (
                <tr key={account.email}>
                  <td>
                    <code>{account.email}</code>
                  </td>
                  <td>{account.says}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <p>
            Mail arrives in <a href={opened.settings.demoInbox ?? ''}>the demo’s inbox</a>.
          </p>
        </section>
      )}
    </main>
  );
}
