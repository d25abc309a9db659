import { openDraft } from '@/server/contact/write';
import { own } from '@/server/request/api';
import { openDriftView } from '@/server/request/view';

/** All to whom a message is written, with what is said of each: the page brings the first alone. */
export const GET = own<{ draftId: string }>(async ({ runtime, viewer }, { draftId }) => {
  const { recipients, possible } = await openDraft(runtime, await openDriftView(runtime, viewer), Number(draftId));
  return Response.json({ recipients, possible });
});
