import { api } from '@/server/request/api';
import { provisional } from '@/server/imports/provisional';

export const GET = api(
  async ({ runtime, viewer }) => {
    const data = await provisional(runtime, viewer);
    return Response.json({ data, next: null, total: data.length });
  },
  { lead: true },
);
