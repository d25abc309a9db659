import { listResponse, own } from '@/server/request/api';
import { chosenColumns, fileOf, readColumns } from '@/server/people/learner-columns';
import { learnerList } from '@/server/people/learner-list';
import { apiParams, listParams } from '../../../learners/list-params';

/** Exactly the list that is shown (its filters, sort and columns, all pages) as a file. */
export const GET = own(async ({ runtime, viewer, query }) => {
  const params = listParams(query);
  const format = query.format === 'xlsx' ? 'xlsx' : 'csv';
  const list = await learnerList(runtime, viewer, { ...apiParams(params), format });
  const columns = params.columns ? readColumns(params.columns) : await chosenColumns(runtime, viewer);
  const { headings, rows } = fileOf(runtime, list.view, list.rows, columns);
  return listResponse(list.query, 'learners', headings, rows, list.total);
});
