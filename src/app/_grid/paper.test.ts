import { describe, expect, it } from 'vitest';
import { PAGE_WIDTH, pagesOfColumns } from './paper';

describe('columns by pages of paper', () => {
  it('gives each page as many as fit beside the names', () => {
    expect(pagesOfColumns(10, 200, PAGE_WIDTH - 800, [])).toEqual([
      { from: 0, to: 4 },
      { from: 4, to: 8 },
      { from: 8, to: 10 },
    ]);
  });

  it('leaves nothing out and nothing twice, whatever the widths', () => {
    for (let count = 1; count < 60; count += 7)
      for (const width of [20, 34, 82, 5000]) {
        const units = Array.from({ length: Math.ceil(count / 5) }, (_, unit) => ({
          first: unit * 5,
          count: Math.min(5, count - unit * 5),
        }));
        const columns = pagesOfColumns(count, width, 300, units).flatMap(({ from, to }) =>
          Array.from({ length: to - from }, (_, index) => from + index),
        );
        expect(columns).toEqual(Array.from({ length: count }, (_, index) => index));
      }
  });

  it('keeps a unit together where half a page is filled without it', () => {
    const units = [
      { first: 0, count: 3 },
      { first: 3, count: 3 },
    ];
    expect(pagesOfColumns(6, 200, PAGE_WIDTH - 800, units)).toEqual([
      { from: 0, to: 3 },
      { from: 3, to: 6 },
    ]);
  });

  it('cuts a unit that is longer than a page', () => {
    expect(pagesOfColumns(9, 200, PAGE_WIDTH - 800, [{ first: 0, count: 9 }])).toHaveLength(3);
  });

  it('has one page with the names where there is no column, or where one is wider than the page', () => {
    expect(pagesOfColumns(0, 34, 300, [])).toEqual([{ from: 0, to: 0 }]);
    expect(pagesOfColumns(2, 34, PAGE_WIDTH + 10, [])).toEqual([
      { from: 0, to: 1 },
      { from: 1, to: 2 },
    ]);
  });
});
