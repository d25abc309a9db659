import { own } from '@/server/request/api';
import { lineOf } from '@/server/people/learner-columns';
import { learnerList } from '@/server/people/learner-list';
import { apiParams, listParams } from '../../../learners/list-params';

const AT_ONCE = '100';

/** The next lines of an endless list, from the place after which they come. */
export const GET = own(async ({ runtime, viewer, query }) => {
  const params = { ...apiParams(listParams(query)), limit: AT_ONCE, cursor: query.cursor };
  const { rows, view, next } = await learnerList(runtime, viewer, params);
  return Response.json({ lines: rows.map((row) => lineOf(runtime, view, row)), next });
});
