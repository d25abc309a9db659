import { api, listResponse } from '@/server/request/api';
import { REACH_COLUMNS, reach } from '@/server/reach/reach';

export const GET = api(async ({ runtime, viewer, query }) => {
  const list = await reach(runtime, viewer, query);
  return listResponse(list.query, 'reach', REACH_COLUMNS, list.rows, list.total, list.next);
});
