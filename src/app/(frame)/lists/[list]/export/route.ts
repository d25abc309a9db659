import { listNamed } from '@/server/lists';
import { chosenColumns } from '@/server/people/learner-list';
import { own } from '@/server/request/api';
import { fileResponse } from '@/server/request/exports';
import { askedOf, listFile, listParams, readColumns } from '@/server/request/list';

/** Exactly the list that is shown (its filters, sort and columns, all pages) as a file. */
export const GET = own<{ list: string }>(async ({ query, runtime, viewer }, { list: name }) => {
  const list = listNamed(name);
  const format = query.format === 'xlsx' ? 'xlsx' : 'csv';
  const isChosen = name === 'learners' && !query.columns;
  const chosen = isChosen ? await chosenColumns(runtime, viewer) : readColumns(list, query.columns);
  const asked = askedOf(list, listParams(list, query));
  return fileResponse(await listFile(list, { runtime, viewer }, asked, format, chosen), list.name, format);
});
