import { describe, expect, it } from 'vitest';
import type { ItemUseRow } from '@/data/item-use/item-use';
import { ITEM_USE_COLUMNS, ITEM_USE_ON_PAGE, sortItemUse } from './item-use-columns';

const row = (item_id: string, more: Partial<ItemUseRow>): ItemUseRow =>
  ({ item_id, item: item_id, openers: 0, openers_week_ago: 0, base: 10, last_opened: null, ...more }) as ItemUseRow;
const rows = [
  row('b', { openers: 2, last_opened: 20, openers_week_ago: 2 }),
  row('a', { openers: 5, last_opened: null, openers_week_ago: 1 }),
  row('c', { openers: 2, last_opened: 10, openers_week_ago: 0 }),
];
const ids = (sort?: string) =>
  sortItemUse(rows, sort)
    .map((one) => one.item_id)
    .join('');

describe('sortItemUse', () => {
  it('keeps outline order, also among equals', () => {
    expect(ids()).toBe('bac');
    expect(ids('-outline')).toBe('cab');
    expect(ids('-openers')).toBe('abc');
  });

  it('puts rows without a value last, both ways', () => {
    expect(ids('last')).toBe('cba');
    expect(ids('-last')).toBe('bca');
  });

  it('goes by the week’s change and by who never opened it', () => {
    expect(ids('-change')).toBe('acb');
    expect(ids('never')).toBe('abc');
  });
});

it('the page has every column, once', () => {
  expect([...ITEM_USE_ON_PAGE].sort()).toEqual(Object.keys(ITEM_USE_COLUMNS).sort());
});
