import { redirect } from 'next/navigation';
import { notLetIn } from '@/server/request/not-let-in';
import { setLoginCookie } from '@/server/request/viewer';
import { runtime } from '@/server/runtime';
import { goToProvider } from '@/server/staff/provider/sign-in';

export const dynamic = 'force-dynamic';

/** To the provider, to sign in there. */
export async function GET(): Promise<Response> {
  const opened = await runtime();
  const going = await notLetIn(opened, () => goToProvider(opened));
  if (going instanceof Response) return going;
  await setLoginCookie('/sign-in/provider', going.state);
  redirect(going.to);
}
