import { pageOfDraft } from '@/server/reports/letter';
import { own } from '@/server/request/api';
import { fileResponse } from '@/server/request/exports';

/** The report that goes with a message, as one of its readers gets it: shown, not saved. */
export const GET = own<{ draftId: string }>(async ({ runtime, viewer, query }, { draftId }) => {
  const file = await pageOfDraft(runtime, viewer, Number(draftId), query.to ?? '');
  const answer = fileResponse(file, 'page', 'pdf');
  answer.headers.set('content-disposition', 'inline');
  return answer;
});
