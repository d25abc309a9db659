import { api, listResponse } from '@/server/api';
import { LEARNER_COLUMNS } from '@/server/exports';
import { learnerList } from '@/server/learner-list';

export const GET = api(async ({ runtime, viewer, query }) => {
  const list = await learnerList(runtime, viewer, query);
  return listResponse(list.query, 'learners', LEARNER_COLUMNS, list.rows, list.total);
});
