import { api, problem } from '@/server/request/api';
import { dropReport, reportOf, saveReport } from '@/server/reports/kept';
import { reportAnswers } from '@/server/reports/shown';
import { readJson } from '@/server/request/request-body';
import type { Viewer } from '@/data/scope';
import type { Runtime } from '@/server/runtime';
import type { Values } from '@/server/request/input';

const LARGEST = 2_000_000;

async function answer(runtime: Runtime, viewer: Viewer, id: string): Promise<Response> {
  const [report] = await reportAnswers(runtime, viewer, [await reportOf(runtime, viewer, id)]);
  return Response.json(report);
}

export const GET = api<{ id: string }>(async ({ runtime, viewer }, { id }) => answer(runtime, viewer, id));

export const PUT = api<{ id: string }>(async ({ runtime, viewer, request }, { id }) => {
  const body = await readJson(request.body, LARGEST);
  if (body === null) return problem(413, 'Too large', 'A report is defined in at most 2 MB.');
  await saveReport(runtime, viewer, id, Object(body.json) as Values);
  return answer(runtime, viewer, id);
});

export const DELETE = api<{ id: string }>(async ({ runtime, viewer }, { id }) => {
  await dropReport(runtime, viewer, id);
  return new Response(null, { status: 204 });
});
