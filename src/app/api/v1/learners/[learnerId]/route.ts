import { untilRead } from '@/server/drift/until-read';
import { api } from '@/server/request/api';
import { learnerDetail } from '@/server/people/learner-detail';

export const GET = api<{ learnerId: string }>(async ({ runtime, viewer }, { learnerId }) => {
  await untilRead(runtime, viewer, {});
  return Response.json(await learnerDetail(runtime, viewer, learnerId));
});
