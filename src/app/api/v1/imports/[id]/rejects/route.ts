import { api } from '@/server/request/api';
import { NotFound } from '@/server/request/input';
import { rejectsStream, requireRun } from '@/server/imports/show';

export const GET = api<{ id: string }>(
  async ({ runtime, viewer }, { id }) => {
    // Rejected rows are a file's own words: no stand-in can be put into them.
    if (viewer.standInKey !== null) throw new NotFound('Names are hidden, so no rejected rows are shown. Nothing');
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
