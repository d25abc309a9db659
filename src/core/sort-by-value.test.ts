import { describe, expect, it } from 'vitest';
import { sortByValue } from './sort-by-value';

const rows = [
  { name: 'a', value: 2 },
  { name: 'b', value: null },
  { name: 'c', value: 1 },
  { name: 'd', value: 2 },
];
const names = (down: 1 | -1) => sortByValue(rows, ({ value }) => value, down).map(({ name }) => name);

describe('rows by a figure', () => {
  it('has those without one last, whichever way', () => {
    expect(names(1)).toEqual(['c', 'a', 'd', 'b']);
    expect(names(-1)).toEqual(['a', 'd', 'c', 'b']);
  });

  it('takes 0 for a figure, and leaves the rows it was given as they stand', () => {
    expect(sortByValue([{ value: 1 }, { value: null }, { value: 0 }], ({ value }) => value, 1)).toEqual([
      { value: 0 },
      { value: 1 },
      { value: null },
    ]);
    expect(rows[0].name).toBe('a');
  });
});
