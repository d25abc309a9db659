import { caseloadAnswers, makeCaseload } from '@/server/people/caseloads';
import { api, problem } from '@/server/request/api';
import type { Values } from '@/server/request/input';
import { readJson } from '@/server/request/request-body';

/** Bytes that a caseload takes: 20,000 learners chosen one by one. */
const LARGEST = 2_000_000;

export const GET = api(async ({ runtime, viewer }) => {
  const data = await caseloadAnswers(runtime, viewer);
  return Response.json({ data, next: null, total: data.length });
});

export const POST = api(async ({ runtime, viewer, request }) => {
  const body = await readJson(request.body, LARGEST);
  if (body === null) return problem(413, 'Too large', 'A caseload is defined in at most 2 MB.');
  const id = await makeCaseload(runtime, viewer, Object(body.json) as Values);
  return Response.json({ id, href: `/api/v1/caseloads/${id}` }, { status: 201 });
});
