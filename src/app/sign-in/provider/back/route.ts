import { redirect } from 'next/navigation';
import { notLetIn } from '@/server/request/not-let-in';
import { setSignedIn, signInFrom, takeLoginCookie } from '@/server/request/viewer';
import { runtime } from '@/server/runtime';
import { comeFromProvider } from '@/server/staff/provider/sign-in';

export const dynamic = 'force-dynamic';

/** Back from the provider. */
export async function GET(request: Request): Promise<Response> {
  const opened = await runtime();
  const { searchParams } = new URL(request.url);
  const state = await takeLoginCookie('/sign-in/provider', searchParams.get('state'));
  const from = await signInFrom();
  const done = await notLetIn(opened, () => comeFromProvider(opened, searchParams, state, from));
  if (done instanceof Response) return done;
  await setSignedIn(done);
  redirect('/');
}
