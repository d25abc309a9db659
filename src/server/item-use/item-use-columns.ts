/** The columns of Reach: how far each item of a course has got. */
import type { ItemUseRow } from '@/data/item-use/item-use';
import { isoOrNull, minutes } from '../request/values';
import type { Column } from '../request/list';

export const ITEM_USE_COLUMNS = {
  item: {
    title: 'Item',
    figures: {
      item_id: (row) => row.item_id,
      item: (row) => row.item,
      unit: (row) => row.unit,
      kind: (row) => row.kind,
    },
  },
  openers: {
    title: 'Opened by',
    sort: 'openers',
    figures: { base: (row) => row.base, openers: (row) => row.openers },
  },
  change: { title: 'This week', sort: 'change', figures: {} },
  opens: { title: 'Opens', sort: 'opens', figures: { opens: (row) => row.opens } },
  minutes: { title: 'Minutes', sort: 'minutes', figures: { minutes: (row) => minutes(row.ms) } },
  first: { title: 'First', sort: 'first', figures: { first_opened: (row) => isoOrNull(row.first_opened) } },
  last: { title: 'Last', sort: 'last', figures: { last_opened: (row) => isoOrNull(row.last_opened) } },
  since: {
    title: 'Since changed',
    sort: 'since',
    figures: { opened_since_changed: (row) => row.opened_since_changed },
  },
  never: { title: 'Never', sort: 'never', figures: { never_opened: (row) => row.base - row.openers } },
} as const satisfies Record<string, Column<ItemUseRow>>;

/** The columns as the page has them: who has opened it and who never has stand together. */
export const ITEM_USE_ON_PAGE: readonly (keyof typeof ITEM_USE_COLUMNS)[] = [
  'item',
  'openers',
  'change',
  'never',
  'since',
  'opens',
  'minutes',
  'first',
  'last',
];

const BY = {
  item: (row) => row.item.toLowerCase(),
  openers: (row) => row.openers,
  change: (row) => row.openers - row.openers_week_ago,
  opens: (row) => row.opens,
  minutes: (row) => row.ms,
  first: (row) => row.first_opened,
  last: (row) => row.last_opened,
  since: (row) => row.opened_since_changed,
  never: (row) => row.base - row.openers,
} as const satisfies Record<string, (row: ItemUseRow) => number | string | null>;

/** What Reach is sorted by; `outline` is the course's own order. */
export const ITEM_USE_SORTS = ['outline', ...(Object.keys(BY) as (keyof typeof BY)[])] as const;

/** Rows in the order asked for; those without a value last, equal ones in outline order. */
export function sortItemUse(rows: readonly ItemUseRow[], sort = 'outline'): ItemUseRow[] {
  const isDescending = sort.startsWith('-');
  const name = sort.replace('-', '');
  if (name === 'outline') return isDescending ? [...rows].reverse() : [...rows];
  const by = BY[name as keyof typeof BY];
  return [...rows].sort((a, b) => {
    const [x, y] = [by(a), by(b)];
    if (x === null || y === null) return Number(x === null) - Number(y === null);
    const order = x < y ? -1 : x > y ? 1 : 0;
    return isDescending ? -order : order;
  });
}
