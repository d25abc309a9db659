import { own } from '@/server/api';
import { lineOf } from '@/server/learner-columns';
import { learnerList } from '@/server/learner-list';
import { apiParams, listParams } from '../list-params';

const AT_ONCE = 100;

/** The next lines of an endless list. */
export const GET = own(async ({ runtime, viewer, query }) => {
  const offset = /^\d{1,9}$/.test(query.offset ?? '') ? query.offset : '0';
  const cursor = Buffer.from(offset).toString('base64url');
  const params = { ...apiParams(listParams(query)), limit: String(AT_ONCE), cursor };
  const { rows, view } = await learnerList(runtime, viewer, params);
  return Response.json(rows.map((row) => lineOf(runtime, view, row)));
});
