/** The Learners list's address: what it may carry and how it is asked for. */
import { lensNames } from '@/server/view';

export const FILTERS = ['q', 'quiet', 'never', 'enrolled_weeks', 'not_contacted', 'band'] as const;
export const SIZES = ['10', '25', '50', '100'] as const;
const KEPT = ['in', ...FILTERS, 'sort', 'limit'] as const;

export type ListParams = Partial<Record<(typeof KEPT)[number], string>>;

/** The parameters of a link that are the list's. */
export function listParams(params: Record<string, string | undefined>): ListParams {
  return Object.fromEntries(KEPT.filter((name) => params[name]).map((name) => [name, params[name]]));
}

/** The same, as the API's list takes it. */
export function apiParams({ in: part, ...rest }: ListParams): Record<string, string> {
  return { ...lensNames(part), ...rest } as Record<string, string>;
}
