import { api, onlyBy } from '@/server/request/api';
import { receiveFile } from '@/server/imports/queue';
import { wakeWorker } from '@/server/worker-host';

export const POST = api(
  async ({ runtime, viewer, request, query }) => {
    const id = await receiveFile(runtime, viewer, query, request.body);
    wakeWorker();
    return Response.json({ id, href: `/api/v1/imports/${id}` }, { status: 202 });
  },
  { lead: true },
);

export const GET = onlyBy('POST');
