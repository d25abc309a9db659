import { api } from '@/server/request/api';
import { pastTrials, trialAsJson } from '@/server/trial/trial';

export const GET = api(async ({ runtime, viewer, query }) => {
  const [first, ...others] = (await pastTrials(runtime, viewer, query)).map(trialAsJson);
  return Response.json(others.length === 0 ? first : { ...first, others });
});
