import { api } from '@/server/request/api';
import { seaTrials, trialAsJson } from '@/server/trial/trial';

export const GET = api(async ({ runtime, viewer, query }) => {
  const [first, ...others] = (await seaTrials(runtime, viewer, query)).map(trialAsJson);
  return Response.json(others.length === 0 ? first : { ...first, others });
});
