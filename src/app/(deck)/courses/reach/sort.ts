import type { ReachRow } from '@/data/reach/reach';

export const REACH_SORTS = [
  'outline',
  'item',
  'openers',
  'change',
  'opens',
  'minutes',
  'first',
  'last',
  'since',
  'never',
] as const;
export type ReachSort = (typeof REACH_SORTS)[number];

const BY: Record<Exclude<ReachSort, 'outline'>, (row: ReachRow) => number | string | null> = {
  item: (row) => row.item.toLowerCase(),
  openers: (row) => row.openers,
  change: (row) => row.openers - row.openers_week_ago,
  opens: (row) => row.opens,
  minutes: (row) => row.ms,
  first: (row) => row.first_opened,
  last: (row) => row.last_opened,
  since: (row) => row.opened_since_changed,
  never: (row) => row.base - row.openers,
};

/** Rows in the order asked for; those without a value last, equal ones in outline order. */
export function sortReach(rows: readonly ReachRow[], sort: ReachSort, descending: boolean): ReachRow[] {
  if (sort === 'outline') return descending ? [...rows].reverse() : [...rows];
  const by = BY[sort];
  return [...rows].sort((a, b) => {
    const [x, y] = [by(a), by(b)];
    if (x === null || y === null) return Number(x === null) - Number(y === null);
    const order = x < y ? -1 : x > y ? 1 : 0;
    return descending ? -order : order;
  });
}
