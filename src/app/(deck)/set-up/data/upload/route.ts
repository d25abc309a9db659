import { isLead } from '@/core/staff/rights';
import { asProblem, problem } from '@/server/request/api';
import { receiveFile } from '@/server/imports/queue';
import { NotFound } from '@/server/request/input';
import { runtime } from '@/server/runtime';
import { currentViewer } from '@/server/request/viewer';
import { wakeWorker } from '@/server/worker-host';

/** A file from the page. The session cookie says who; only this application's own pages may send it. */
export async function POST(request: Request): Promise<Response> {
  const opened = await runtime();
  try {
    if (request.headers.get('sec-fetch-site') !== 'same-origin')
      return problem(403, 'Not allowed', 'Send files to the API instead.');
    const viewer = await currentViewer();
    if (!viewer) return problem(401, 'Not signed in', 'Your sign-in has ended. Sign in again; nothing was changed.');
    if (!isLead(viewer)) throw new NotFound();
    const query = Object.fromEntries(new URL(request.url).searchParams);
    const id = await receiveFile(opened, viewer, query, request.body);
    wakeWorker();
    return Response.json({ id }, { status: 202 });
  } catch (error) {
    return asProblem(opened, error);
  }
}
