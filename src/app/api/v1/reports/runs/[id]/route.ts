import { api } from '@/server/request/api';
import { runAnswer } from '@/server/reports/rows-answer';
import { cancelOwnRun } from '@/server/reports/runs';

/** How far a long report is (202), and its file once it is there. */
export const GET = api<{ id: string }>(async ({ runtime, viewer }, { id }) => runAnswer(runtime, viewer, id));

export const DELETE = api<{ id: string }>(async ({ runtime, viewer }, { id }) => {
  await cancelOwnRun(runtime, viewer, id);
  return new Response(null, { status: 204 });
});
