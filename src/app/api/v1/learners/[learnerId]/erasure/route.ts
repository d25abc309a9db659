import { askErasure, takeBackErasure } from '@/server/privacy/erasing';
import { api, problem } from '@/server/request/api';
import type { Values } from '@/server/request/input';
import { readJson } from '@/server/request/request-body';
import { isoOrNull } from '@/server/request/values';

/** Bytes that a reason takes at most. */
const LARGEST = 50_000;

export const POST = api<{ learnerId: string }>(
  async ({ runtime, viewer, request }, { learnerId }) => {
    const body = await readJson(request.body, LARGEST);
    if (body === null) return problem(413, 'Too large', 'A reason is at most 1,000 characters.');
    const until = await askErasure(runtime, viewer, learnerId, Object(body.json) as Values);
    return Response.json({ until: isoOrNull(until) }, { status: 201 });
  },
  { lead: true },
);

export const DELETE = api<{ learnerId: string }>(
  async ({ runtime, viewer }, { learnerId }) => {
    await takeBackErasure(runtime, viewer, learnerId);
    return new Response(null, { status: 204 });
  },
  { lead: true },
);
