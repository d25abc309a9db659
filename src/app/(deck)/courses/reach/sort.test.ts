import { describe, expect, it } from 'vitest';
import type { ReachRow } from '@/data/reach/reach';
import { sortReach } from './sort';

const row = (item_id: string, more: Partial<ReachRow>): ReachRow =>
  ({ item_id, item: item_id, openers: 0, openers_week_ago: 0, base: 10, last_opened: null, ...more }) as ReachRow;
const rows = [
  row('b', { openers: 2, last_opened: 20, openers_week_ago: 2 }),
  row('a', { openers: 5, last_opened: null, openers_week_ago: 1 }),
  row('c', { openers: 2, last_opened: 10, openers_week_ago: 0 }),
];
const ids = (sorted: ReachRow[]) => sorted.map((one) => one.item_id).join('');

describe('sortReach', () => {
  it('keeps outline order, also among equals', () => {
    expect(ids(sortReach(rows, 'outline', false))).toBe('bac');
    expect(ids(sortReach(rows, 'outline', true))).toBe('cab');
    expect(ids(sortReach(rows, 'openers', true))).toBe('abc');
  });

  it('puts rows without a value last, both ways', () => {
    expect(ids(sortReach(rows, 'last', false))).toBe('cba');
    expect(ids(sortReach(rows, 'last', true))).toBe('bca');
  });

  it('goes by the week’s change and by who never opened it', () => {
    expect(ids(sortReach(rows, 'change', true))).toBe('acb');
    expect(ids(sortReach(rows, 'never', false))).toBe('abc');
  });
});
