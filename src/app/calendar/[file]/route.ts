import { asProblem, problem } from '@/server/request/api';
import { NotFound } from '@/server/request/input';
import { runtime } from '@/server/runtime';
import { readFeed } from '@/server/sessions/feeds';

/** A calendar by its secret address. Whoever has the address reads it: calendar programs do not sign in. */
export async function GET(_: Request, { params }: { params: Promise<{ file: string }> }): Promise<Response> {
  const opened = await runtime();
  try {
    const token = /^([\w-]{20,64})\.ics$/.exec((await params).file)?.[1];
    if (!token) throw new NotFound('No such calendar');
    return new Response(await readFeed(opened, token), {
      headers: {
        'content-type': 'text/calendar; charset=utf-8',
        'content-disposition': 'inline; filename="sessions.ics"',
        'cache-control': 'private, no-store',
        'x-robots-tag': 'noindex',
      },
    });
  } catch (error) {
    if (error instanceof NotFound) return problem(404, 'Not found', 'No such calendar: it was revoked, or never made.');
    return asProblem(opened, error);
  }
}
