import { notLetIn } from '@/server/request/not-let-in';
import { plainPage } from '@/server/request/plain-page';
import { readForm } from '@/server/request/request-body';
import { setSignedIn, signInFrom, takeLoginCookie } from '@/server/request/viewer';
import { runtime } from '@/server/runtime';
import { takeLaunch } from '@/server/staff/platform/launch';

export const dynamic = 'force-dynamic';

/** A course platform sends somebody: they come to the course that they came from. */
export async function POST(request: Request): Promise<Response> {
  const opened = await runtime();
  const done = await notLetIn(opened, async () => {
    const sent = Object.fromEntries(await readForm(request));
    const state = await takeLoginCookie('/lti', sent.state ?? null);
    return takeLaunch(opened, sent, state, await signInFrom());
  });
  if (done instanceof Response) return done;
  const { signedIn, course, title } = done;
  if (signedIn !== null) await setSignedIn(signedIn);
  if (course === null && title !== null && signedIn !== null)
    return plainPage({
      title: `${title} is not connected yet`,
      says: [
        'You are signed in. Which course of Lee Shore it is has to be said once by somebody who leads the programme.',
      ],
      link: { href: '/', label: 'Go on to Lee Shore' },
    });
  const to = course !== null ? `/courses/progress?course=${encodeURIComponent(course)}` : '/';
  // See other: what was posted here is not posted there.
  return new Response(null, { status: 303, headers: { location: to } });
}
