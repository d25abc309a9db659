import { own } from '@/server/api';
import { liveResponse } from '@/server/live/stream';
import { lensNames, openMoment } from '@/server/view';

/** What happens now in the part looked at, as it happens. */
export const GET = own(async ({ runtime, viewer, request, query }) => {
  const moment = await openMoment(runtime, viewer, lensNames(query.in));
  // A browser that lost its connection says by itself what it had last.
  const text = request.headers.get('last-event-id') ?? query.after ?? '';
  return liveResponse(runtime, moment, /^\d{1,15}$/.test(text) ? Number(text) : null);
});
