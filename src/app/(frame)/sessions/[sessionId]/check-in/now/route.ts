import { own } from '@/server/request/api';
import { checkInScreen } from '@/server/sessions/check-in';

/** The screen's digits and who is in, as they are now. */
export const GET = own<{ sessionId: string }>(
  async ({ runtime, viewer }, { sessionId }) => Response.json(await checkInScreen(runtime, viewer, sessionId)),
  { byItself: true },
);
