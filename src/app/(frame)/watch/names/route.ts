import { own } from '@/server/request/api';
import { openDriftView } from '@/server/request/view';
import { segmentNames } from '@/server/request/segment-names';
import { watchNames } from '@/server/drift/watch';

/** Names of the dots on the Shoreline, for the part of the caseload and the day looked at. */
export const GET = own(async ({ runtime, viewer, query }) =>
  Response.json(await watchNames(runtime, await openDriftView(runtime, viewer, segmentNames(query.in), query.as_of))),
);
