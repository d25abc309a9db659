import { dateOfDay } from '@/core/time/zone';
import { listResponse, own } from '@/server/request/api';
import { REACH_COLUMNS, reachFigures } from '@/server/reach/reach';
import { partOf, readOpens, readReach } from '../read-reach';

/** The chart's figures, or those of the items, as a file: of the same address as the page. */
export const GET = own(async ({ runtime, viewer, query }) => {
  const asked = await partOf(runtime, viewer, query);
  const file = { format: query.format === 'xlsx' ? ('xlsx' as const) : ('csv' as const) };
  if (query.of === 'items') {
    const { rows } = await readReach(runtime, viewer, asked, query);
    return listResponse(file, 'reach', REACH_COLUMNS, rows.map(reachFigures), rows.length);
  }
  const { series, days } = await readOpens(runtime, viewer, asked, query);
  const rows = days.map(({ day, opens }) => ({ day: dateOfDay(day), ...opens }));
  return listResponse(file, 'opens-per-day', ['day', ...series], rows, rows.length);
});
