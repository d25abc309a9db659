import { own } from '@/server/request/api';
import { lensNames, openView } from '@/server/request/view';
import { watchNames } from '@/server/drift/watch';

/** Names of the dots on the Shoreline, for the part of the caseload and the day looked at. */
export const GET = own(async ({ runtime, viewer, query }) =>
  Response.json(await watchNames(runtime, await openView(runtime, viewer, lensNames(query.in), query.as_of))),
);
