import { FLARES, endFlare, flareShown } from '@/server/contact/flares';
import { api, problem } from '@/server/request/api';
import type { Values } from '@/server/request/input';
import { figuresOf } from '@/server/request/list';
import { readJson } from '@/server/request/request-body';

/** Bytes that an outcome takes at most. */
const LARGEST = 50_000;

export const POST = api<{ id: string }>(async ({ runtime, viewer, request }, { id }) => {
  const body = await readJson(request.body, LARGEST);
  if (body === null) return problem(413, 'Too large', 'An outcome is at most 1,000 characters.');
  await endFlare(runtime, viewer, Number(id), Object(body.json) as Values);
  const at = { now: runtime.clock.now(), zone: runtime.zone };
  return Response.json(figuresOf(FLARES, await flareShown(runtime, viewer, Number(id)), at));
});
