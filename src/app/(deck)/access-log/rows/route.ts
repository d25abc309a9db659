import { own } from '@/server/request/api';
import { openLog, readLog } from '@/server/access/access-log';
import { LOG_PAGE, askedOf, lineOf, logParams } from '../log-params';

/** The next rows of the log, for a list that goes on. */
export const GET = own(async ({ runtime, viewer, query }) => {
  const open = await openLog(runtime, viewer, askedOf(logParams(query)));
  const { rows, older } = await readLog(runtime, open, { limit: LOG_PAGE, cursor: query.cursor });
  return Response.json({ lines: rows.map(lineOf), next: older });
});
