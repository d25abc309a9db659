import { retentionAnswer, setRetention, takeBackRetention } from '@/server/privacy/retention';
import { api, problem } from '@/server/request/api';
import type { Values } from '@/server/request/input';
import { readJson } from '@/server/request/request-body';

/** Bytes that days by kind take at most. */
const LARGEST = 10_000;

/** The days that hold and those that will, and what goes by them; with days by kind, what would go by those. */
export const GET = api(
  async ({ runtime, viewer, query }) => Response.json(await retentionAnswer(runtime, viewer, query)),
  {
    lead: true,
  },
);

export const PUT = api(
  async ({ runtime, viewer, request }) => {
    const body = await readJson(request.body, LARGEST);
    if (body === null) return problem(413, 'Too large', 'Days by kind are less than that.');
    await setRetention(runtime, viewer, Object(body.json) as Values);
    return Response.json(await retentionAnswer(runtime, viewer));
  },
  { lead: true },
);

/** Takes back what does not hold yet. */
export const DELETE = api(
  async ({ runtime, viewer }) => {
    await takeBackRetention(runtime, viewer);
    return new Response(null, { status: 204 });
  },
  { lead: true },
);
