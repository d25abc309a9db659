import { api } from '@/server/api';
import { learnerDetail } from '@/server/learner-list';

export const GET = api<{ learnerId: string }>(async ({ runtime, viewer }, { learnerId }) =>
  Response.json(await learnerDetail(runtime, viewer, learnerId)),
);
