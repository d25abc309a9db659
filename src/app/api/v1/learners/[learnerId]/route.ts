import { api } from '@/server/request/api';
import { learnerDetail } from '@/server/people/learner-detail';

export const GET = api<{ learnerId: string }>(async ({ runtime, viewer }, { learnerId }) =>
  Response.json(await learnerDetail(runtime, viewer, learnerId)),
);
