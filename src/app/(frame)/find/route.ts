import { own } from '@/server/request/api';
import { find } from '@/server/people/find';
import { openDriftView } from '@/server/request/view';

/** What matches a text, for the search in the bar. */
export const GET = own(async ({ runtime, viewer, query }) =>
  Response.json(await find(runtime, await openDriftView(runtime, viewer, {}, query.as_of), query.q ?? '')),
);
