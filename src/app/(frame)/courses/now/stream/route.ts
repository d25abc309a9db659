import { own } from '@/server/request/api';
import { liveResponse } from '@/server/access/live/stream';
import { requireSession } from '@/server/sessions/rights';
import { lensNames, openMoment } from '@/server/request/view';
import { sessionToken } from '@/server/request/viewer';

/** What happens now in the part looked at, or in one session, as it happens: the one live stream. */
export const GET = own(async ({ runtime, viewer, request, query }) => {
  const moment = await openMoment(runtime, viewer, lensNames(query.in));
  // A browser that lost its connection says by itself what it had last.
  const session = query.session ? await requireSession(runtime, viewer, query.session) : null;
  const after = request.headers.get('last-event-id') ?? query.after ?? null;
  return liveResponse(runtime, moment, after, (await sessionToken())!, {
    session: session ? { id: session.id, mark: query.mark ?? null } : undefined,
    withLog: query.log !== 'no',
  });
});
