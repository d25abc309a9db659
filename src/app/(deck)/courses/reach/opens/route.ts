import { dateOfDay } from '@/core/time/zone';
import { listResponse, own } from '@/server/api';
import { dailyOpens } from '@/server/opens';
import { REACH_COLUMNS, reach } from '@/server/reach';
import { lensNames } from '@/server/view';

/** The chart's figures, or those of the items, as a file. */
export const GET = own(async ({ runtime, viewer, query }) => {
  const asked = { ...lensNames(query.in), course: query.course };
  const file = { format: query.format === 'xlsx' ? ('xlsx' as const) : ('csv' as const) };
  if (query.of === 'items') {
    const { period, from, to } = query;
    const list = await reach(runtime, viewer, { ...asked, period, from, to, ...file });
    return listResponse(file, 'reach', REACH_COLUMNS, list.rows, list.total);
  }
  const { series, days } = await dailyOpens(runtime, viewer, { ...asked, by: query.by, weeks: query.weeks });
  const rows = days.map(({ day, opens }) => ({ day: dateOfDay(day), ...opens }));
  return listResponse(file, 'opens-per-day', ['day', ...series], rows, rows.length);
});
