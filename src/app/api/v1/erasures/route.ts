import { erasureAnswers } from '@/server/privacy/erasing';
import { api } from '@/server/request/api';

export const GET = api(
  async ({ runtime, viewer }) => {
    const data = await erasureAnswers(runtime, viewer);
    return Response.json({ data, next: null, total: data.length });
  },
  { lead: true },
);
