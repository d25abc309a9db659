import { api, onlyBy, problem } from '@/server/request/api';
import { readJson } from '@/server/request/request-body';
import { takePresence } from '@/server/sessions/presence';
import { wakeWorker } from '@/server/worker-host';

/** Bytes of a list of rows at most. */
const LARGEST = 5 * 1024 ** 2;

export const POST = api<{ sessionId: string }>(async ({ runtime, viewer, request }, { sessionId }) => {
  const body = await readJson(request.body, LARGEST);
  if (body === null) return problem(413, 'Too large', 'The rows come to more than 5 MB: send them in parts.');
  const taken = await takePresence(runtime, viewer, sessionId, body.json);
  wakeWorker();
  return Response.json(taken);
});

export const GET = onlyBy('POST');
