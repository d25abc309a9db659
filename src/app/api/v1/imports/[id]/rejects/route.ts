import { api } from '@/server/api';
import { rejectsStream, requireRun } from '@/server/imports/show';

export const GET = api<{ id: string }>(
  async ({ runtime }, { id }) => {
    const run = await requireRun(runtime, id);
    return new Response(await rejectsStream(runtime, run), {
      headers: {
        'content-type': 'text/csv; charset=utf-8',
        'content-disposition': `attachment; filename="rejected-${run.id}.csv"`,
      },
    });
  },
  { lead: true },
);
