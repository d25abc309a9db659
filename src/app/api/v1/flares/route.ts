import { makeFlare } from '@/server/contact/flares';
import { readAnswer } from '@/server/drift/until-read';
import { listAt } from '@/server/lists';
import { api, problem } from '@/server/request/api';
import type { Values } from '@/server/request/input';
import { readJson } from '@/server/request/request-body';

/** Bytes that a flare takes at most. */
const LARGEST = 50_000;

export const GET = api(async ({ query, ...asker }) => readAnswer(listAt('flares'), asker, query));

export const POST = api(async ({ runtime, viewer, request }) => {
  const body = await readJson(request.body, LARGEST);
  if (body === null) return problem(413, 'Too large', 'A flare has a reason of at most 1,000 characters.');
  const id = await makeFlare(runtime, viewer, Object(body.json) as Values);
  return Response.json({ id, href: `/api/v1/flares/${id}` }, { status: 201 });
});
