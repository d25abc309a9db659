/**
 * Rows by a figure, upwards or downwards; whoever has none comes last either way. Those alike stay as they stand.
 *
 * @example sortByValue([{ rate: null }, { rate: 0.5 }, { rate: 0.2 }], ({ rate }) => rate, 1)
 * // [{ rate: 0.2 }, { rate: 0.5 }, { rate: null }]
 */
export function sortByValue<Row>(rows: readonly Row[], value: (row: Row) => number | null, down: 1 | -1): Row[] {
  return [...rows].sort((a, b) => {
    const [x, y] = [value(a), value(b)];
    if (x === null || y === null) return Number(x === null) - Number(y === null);
    return (x - y) * down;
  });
}
