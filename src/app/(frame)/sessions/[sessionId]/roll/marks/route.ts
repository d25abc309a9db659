import { asProblem, problem } from '@/server/request/api';
import { InvalidInput } from '@/server/request/input';
import { readBody } from '@/server/request/request-body';
import { currentViewer } from '@/server/request/viewer';
import { runtime } from '@/server/runtime';
import { giveMarks } from '@/server/sessions/roll';
import { wakeWorker } from '@/server/worker-host';

const LARGEST = 2 * 1024 ** 2;

/** Marks of a roll from the page: no server action, since a device may send them long after the page was opened. */
export async function POST(
  request: Request,
  { params }: { params: Promise<{ sessionId: string }> },
): Promise<Response> {
  const opened = await runtime();
  try {
    // Only this application's own pages may send them.
    if (request.headers.get('sec-fetch-site') !== 'same-origin')
      return problem(403, 'Not allowed', 'Take the roll on its page.');
    const viewer = await currentViewer();
    if (!viewer)
      return problem(
        401,
        'Not signed in',
        'Your sign-in has ended. Sign in again; your marks are kept on this device.',
      );
    const body = await readBody(request.body, LARGEST);
    if (body === null) return problem(413, 'Too large', 'That is more than any roll.');
    let values: unknown;
    try {
      values = JSON.parse(body.toString('utf8'));
    } catch {
      throw new InvalidInput([{ field: 'body', message: 'is not JSON' }]);
    }
    const answer = await giveMarks(opened, viewer, (await params).sessionId, Object(values) as Record<string, unknown>);
    wakeWorker();
    return Response.json(answer);
  } catch (error) {
    return asProblem(opened, error);
  }
}
