import { api, listResponse } from '@/server/request/api';
import { VISIT_COLUMNS, visits } from '@/server/item-use/item-use';

export const GET = api(async ({ runtime, viewer, query }) => {
  const list = await visits(runtime, viewer, query);
  return listResponse(list.query, 'visits', VISIT_COLUMNS, list.rows, list.total, list.next);
});
