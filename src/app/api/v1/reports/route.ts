import { api, problem } from '@/server/request/api';
import { makeReport, reportsOf } from '@/server/reports/kept';
import { reportAnswers } from '@/server/reports/shown';
import { readJson } from '@/server/request/request-body';
import type { Values } from '@/server/request/input';

/** Bytes that a report's definition takes: 20,000 learners chosen one by one. */
const LARGEST = 2_000_000;

export const GET = api(async ({ runtime, viewer }) => {
  const data = await reportAnswers(runtime, viewer, await reportsOf(runtime, viewer));
  return Response.json({ data, next: null, total: data.length });
});

export const POST = api(async ({ runtime, viewer, request }) => {
  const body = await readJson(request.body, LARGEST);
  if (body === null) return problem(413, 'Too large', 'A report is defined in at most 2 MB.');
  const id = await makeReport(runtime, viewer, Object(body.json) as Values);
  return Response.json({ id, href: `/api/v1/reports/${id}` }, { status: 201 });
});
