/** What a page of A4 across has for a table, in px: 297 mm less two margins of 10 mm, at 96 px an inch. */
export const PAGE_WIDTH = Math.floor(((297 - 20) / 25.4) * 96);

/**
 * The columns of a grid by pages of paper: as many as fit beside what stands at the left of each page, at least one. A
 * unit that would be cut, and fits on a page, begins on the next one when that leaves at least half of this one filled.
 *
 * @param count of columns
 * @param width of a column, in px
 * @param stick px that names and figures take on each page
 * @param units runs of columns under one head, in order
 * @returns for each page its first column and the one after its last; one empty page where there is no column
 *
 * @example
 * pagesOfColumns(10, 200, 247, []); // [{ from: 0, to: 4 }, { from: 4, to: 8 }, { from: 8, to: 10 }]
 */
export function pagesOfColumns(
  count: number,
  width: number,
  stick: number,
  units: readonly { first: number; count: number }[],
): { from: number; to: number }[] {
  const most = Math.max(1, Math.floor((PAGE_WIDTH - stick) / width));
  const pages: { from: number; to: number }[] = [];
  for (let from = 0; from < count || pages.length === 0;) {
    let to = Math.min(count, from + most);
    const cut = to < count && units.find(({ first, count: of }) => first < to && first + of > to);
    if (cut && cut.count <= most && cut.first - from >= most / 2) to = cut.first;
    pages.push({ from, to });
    from = Math.max(to, from + 1);
  }
  return pages;
}
