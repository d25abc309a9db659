import { caseloadAnswer, dropCaseload, saveCaseload } from '@/server/people/caseloads';
import { api, problem } from '@/server/request/api';
import type { Values } from '@/server/request/input';
import { readJson } from '@/server/request/request-body';

const LARGEST = 2_000_000;

export const GET = api<{ id: string }>(async ({ runtime, viewer }, { id }) =>
  Response.json(await caseloadAnswer(runtime, viewer, id)),
);

export const PUT = api<{ id: string }>(async ({ runtime, viewer, request }, { id }) => {
  const body = await readJson(request.body, LARGEST);
  if (body === null) return problem(413, 'Too large', 'A caseload is defined in at most 2 MB.');
  await saveCaseload(runtime, viewer, id, Object(body.json) as Values);
  return Response.json(await caseloadAnswer(runtime, viewer, id));
});

export const DELETE = api<{ id: string }>(async ({ runtime, viewer }, { id }) => {
  await dropCaseload(runtime, viewer, id);
  return new Response(null, { status: 204 });
});
