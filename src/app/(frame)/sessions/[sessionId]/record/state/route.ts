import { own } from '@/server/request/api';
import { recordState } from '@/server/sessions/record-state';

/** How far the import of a session's record is. */
export const GET = own<{ sessionId: string }>(
  async ({ runtime, viewer, query }, { sessionId }) =>
    Response.json(await recordState(runtime, viewer, sessionId, query.import ?? '')),
  { byItself: true },
);
