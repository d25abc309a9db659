import { archivesAnswer, askArchive } from '@/server/archive/archive';
import { api, problem } from '@/server/request/api';
import type { Values } from '@/server/request/input';
import { readJson } from '@/server/request/request-body';

/** Bytes that a course's id takes at most. */
const LARGEST = 10_000;

export const GET = api(
  async ({ runtime, viewer }) => {
    const data = await archivesAnswer(runtime, viewer);
    return Response.json({ data, next: null, total: data.length });
  },
  { lead: true },
);

/** Has a course archived that has ended. */
export const POST = api(
  async ({ runtime, viewer, request }) => {
    const body = await readJson(request.body, LARGEST);
    if (body === null) return problem(413, 'Too large', 'A course’s id is at most 200 characters.');
    await askArchive(runtime, viewer, Object(body.json) as Values);
    return new Response(null, { status: 202 });
  },
  { lead: true },
);
