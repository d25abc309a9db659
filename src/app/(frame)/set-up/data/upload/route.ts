import { isLead } from '@/core/staff/rights';
import { asProblem, problem } from '@/server/request/api';
import { offerFile } from '@/server/imports/offered';
import { receiveFile } from '@/server/imports/receive';
import { NotFound } from '@/server/request/input';
import { runtime } from '@/server/runtime';
import { currentViewer } from '@/server/request/viewer';
import { requireRoll } from '@/server/sessions/rights';
import { wakeWorker } from '@/server/worker-host';

/** A file from the page. The session cookie says who; only this application's own pages may send it. */
export async function POST(request: Request): Promise<Response> {
  const opened = await runtime();
  try {
    if (request.headers.get('sec-fetch-site') !== 'same-origin')
      return problem(403, 'Not allowed', 'Send files to the API instead.');
    const viewer = await currentViewer();
    if (!viewer) return problem(401, 'Not signed in', 'Your sign-in has ended. Sign in again; nothing was changed.');
    const query = Object.fromEntries(new URL(request.url).searchParams);
    // Whoever takes a session's roll may bring in the record of its meeting.
    if (!isLead(viewer)) {
      if (query.kind !== 'presence' || !query.session) throw new NotFound();
      await requireRoll(opened, viewer, query.session);
    }
    // A file that is only to be looked at waits until somebody has seen what would become of it.
    const isHeld = query.hold === 'yes';
    const [id] = await (isHeld ? offerFile : receiveFile)(opened, viewer, query, request.body);
    wakeWorker();
    return Response.json({ id }, { status: 202 });
  } catch (error) {
    return asProblem(opened, error);
  }
}
