import { own } from '@/server/request/api';
import { liveResponse } from '@/server/access/live/stream';
import { requireSession } from '@/server/sessions/rights';
import { openView } from '@/server/request/view';
import { segmentNames } from '@/server/request/segment-names';
import { sessionToken } from '@/server/request/viewer';

/** What happens now in the part looked at, or in one session, as it happens: the one live stream. */
export const GET = own(async ({ runtime, viewer, request, query }) => {
  const view = await openView(runtime, viewer, segmentNames(query.in));
  // A browser that lost its connection says by itself what it had last.
  const session = query.session ? await requireSession(runtime, viewer, query.session) : null;
  const after = request.headers.get('last-event-id') ?? query.after ?? null;
  return liveResponse(runtime, view, after, (await sessionToken())!, {
    session: session ? { id: session.id, version: query.version ?? null } : undefined,
    withLog: query.log !== 'no',
  });
});
