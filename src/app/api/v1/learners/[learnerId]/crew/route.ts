import { crewOfLearner } from '@/server/people/crew';
import { api } from '@/server/request/api';

export const GET = api<{ learnerId: string }>(async ({ runtime, viewer }, { learnerId }) => {
  const data = await crewOfLearner(runtime, viewer, learnerId);
  return Response.json({ data, next: null, total: data.length });
});
