import { api, onlyBy, problem } from '@/server/request/api';
import { settleProvisional } from '@/server/imports/provisional';
import { readJson } from '@/server/request/request-body';
import type { Values } from '@/server/request/input';
import { wakeWorker } from '@/server/worker-host';

/** Bytes that saying what to do takes. */
const LARGEST = 10_000;

export const POST = api<{ kind: string; id: string }>(
  async ({ runtime, viewer, request }, { kind, id }) => {
    const body = await readJson(request.body, LARGEST);
    if (body === null) return problem(413, 'Too large', 'What is to be done is said in a few words.');
    await settleProvisional(runtime, viewer, kind, Number(id), Object(body.json) as Values);
    wakeWorker();
    return Response.json({ done: true });
  },
  { lead: true },
);

export const GET = onlyBy('POST');
