import { api, listResponse } from '@/server/request/api';
import { LEARNER_COLUMNS } from '@/server/request/exports';
import { learnerFigures } from '@/server/request/figures';
import { learnerList } from '@/server/people/learner-list';

export const GET = api(async ({ runtime, viewer, query }) => {
  const list = await learnerList(runtime, viewer, query);
  const rows = list.rows.map((row) => learnerFigures(list.view.now, runtime.zone, row));
  return listResponse(list.query, 'learners', LEARNER_COLUMNS, rows, list.total, list.next);
});
