/** Signing in for what is measured. */
import { signIn } from '@/server/staff/accounts';
import type { Runtime } from '@/server/runtime';

/** The token of a new session of somebody of whom no second factor is asked. */
export async function tokenOf(runtime: Runtime, { email, password }: { email: string; password: string }) {
  const done = await signIn(runtime, { email, password }, { address: 'bench', browser: null, agent: '' });
  if ('half' in done) throw new Error('A second factor is asked for');
  return done.token;
}
