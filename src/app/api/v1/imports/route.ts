import { api, onlyBy } from '@/server/request/api';
import { receiveFile } from '@/server/imports/receive';
import { wakeWorker } from '@/server/worker-host';

const named = (id: number) => ({ id, href: `/api/v1/imports/${id}` });

export const POST = api(
  async ({ runtime, viewer, request, query }) => {
    const [id, ...also] = (await receiveFile(runtime, viewer, query, request.body)).map(named);
    wakeWorker();
    return Response.json({ ...id, ...(also.length > 0 && { also }) }, { status: 202 });
  },
  { lead: true },
);

export const GET = onlyBy('POST');
