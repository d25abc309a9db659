import { api, listResponse } from '@/server/api';
import { LEARNER_COLUMNS } from '@/server/exports';
import { learnerFigures } from '@/server/figures';
import { learnerList } from '@/server/learner-list';

export const GET = api(async ({ runtime, viewer, query }) => {
  const list = await learnerList(runtime, viewer, query);
  const rows = list.rows.map((row) => learnerFigures(list.view.now, runtime.zone, row));
  return listResponse(list.query, 'learners', LEARNER_COLUMNS, rows, list.total, list.next);
});
