import { dateOfDay } from '@/core/time/zone';
import { listResponse, own } from '@/server/request/api';
import { partOf, readOpens } from '../read-item-use';

/** The chart's figures as a file: of the same address as the page. */
export const GET = own(async ({ runtime, viewer, query }) => {
  const asked = await partOf(runtime, viewer, query);
  const file = { format: query.format === 'xlsx' ? ('xlsx' as const) : ('csv' as const) };
  const { series, days } = await readOpens(runtime, viewer, asked, query);
  const rows = days.map(({ day, opens }) => ({ day: dateOfDay(day), ...opens }));
  return listResponse(file, 'opens-per-day', ['day', ...series], rows, rows.length);
});
