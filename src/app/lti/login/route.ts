import { notLetIn } from '@/server/request/not-let-in';
import { readForm } from '@/server/request/request-body';
import { setLoginCookie } from '@/server/request/viewer';
import { runtime } from '@/server/runtime';
import { beginLaunch } from '@/server/staff/platform/launch';

export const dynamic = 'force-dynamic';

/** A course platform says that somebody wants to come: by an address, or by a form that their browser posts. */
async function begin(request: Request): Promise<Response> {
  const opened = await runtime();
  const going = await notLetIn(opened, async () => {
    const sent = request.method === 'POST' ? await readForm(request) : new URL(request.url).searchParams;
    return beginLaunch(opened, Object.fromEntries(sent));
  });
  if (going instanceof Response) return going;
  await setLoginCookie('/lti', going.state);
  // Found: a browser that posted its form here does not post it there.
  return new Response(null, { status: 302, headers: { location: going.to } });
}

export const GET = begin;
export const POST = begin;
