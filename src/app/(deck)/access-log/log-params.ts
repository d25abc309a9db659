/** The access log's address: what it may carry and how it is asked for. */
import type { LogRow } from '@/data/access/log/page';
import { lensNames } from '@/server/request/view';

/** What narrows the log. */
const LOG_FILTERS = [
  'course',
  'group',
  'organisation',
  'learner',
  'item',
  'unit',
  'action',
  'kind',
  'period',
  'from',
  'to',
  'staff',
] as const;
const KEPT = ['in', 'as_of', ...LOG_FILTERS, 'fold'] as const;

export type LogParams = Partial<Record<(typeof KEPT)[number], string>>;

/** Rows on a page, and as many again each time one goes on. */
export const LOG_PAGE = 100;

/** The parameters of a link that are the log's. */
export function logParams(params: Record<string, string | undefined>): LogParams {
  return Object.fromEntries(KEPT.filter((name) => params[name]).map((name) => [name, params[name]]));
}

/** The same, as the API takes it. A course, group or organisation said in a filter goes before the bar's. */
export function askedOf(params: LogParams): Record<string, string> {
  const asked = [...LOG_FILTERS, 'as_of'] as const;
  const own = asked.filter((name) => params[name]).map((name) => [name, params[name]]);
  return { ...lensNames(params.in), ...Object.fromEntries(own) };
}

/** A row as the list shows it. */
export type LogLine = Omit<LogRow, 'person' | 'source_id'> & { who: string; staff: boolean };

export function lineOf(read: LogRow): LogLine {
  const { id, at, learner_id, name, course, item_id, item, action, kind, address, person } = read;
  const row = { id, at, learner_id, name, course, item_id, item, action, kind, address };
  return { ...row, staff: person === null, who: `${person === null ? 'staff' : 'learner'} ${row.learner_id}` };
}
