/** The Learners list's address: what it may carry and how it is asked for. */
import { lensNames } from '@/server/request/view';

const FILTERS = [
  'q',
  'quiet',
  'never',
  'enrolled_weeks',
  'not_contacted',
  'band',
  'course',
  'group',
  'organisation',
  'opened',
  'not_opened',
  'opened_from',
  'opened_to',
  'opened_since',
  'first_opened_since',
  'status',
] as const;
/** Rows on a page; `endless` goes on as one scrolls. */
export const SIZES = ['10', '25', '50', '100', 'endless'] as const;
const KEPT = ['in', 'as_of', ...FILTERS, 'sort', 'limit', 'columns'] as const;

export type ListParams = Partial<Record<(typeof KEPT)[number], string>>;

/** The parameters of a link that are the list's. */
export function listParams(params: Record<string, string | undefined>): ListParams {
  return Object.fromEntries(KEPT.filter((name) => params[name]).map((name) => [name, params[name]]));
}

/** The same, as the API's list takes it. A course, group or organisation said in a filter goes before the bar's. */
export function apiParams(params: ListParams): Record<string, string> {
  const asked = [...FILTERS, 'as_of', 'sort'] as const;
  const own = asked.filter((name) => params[name]).map((name) => [name, params[name]]);
  return { ...lensNames(params.in), ...Object.fromEntries(own) };
}

/** Rows asked for at a time. */
export function sizeOf({ limit }: ListParams): { size: number; endless: boolean } {
  const chosen = SIZES.find((size) => size === limit) ?? '25';
  return chosen === 'endless' ? { size: 100, endless: true } : { size: Number(chosen), endless: false };
}
