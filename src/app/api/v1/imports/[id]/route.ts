import { api } from '@/server/request/api';
import { requireRun, showRun } from '@/server/imports/show';

export const GET = api<{ id: string }>(
  async ({ runtime }, { id }) => Response.json(showRun(await requireRun(runtime, id))),
  { lead: true },
);
