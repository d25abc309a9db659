/** Rows by what a key says of them, in the order they came. Node 20 has no Map.groupBy. */
export function groupBy<K, T>(rows: Iterable<T>, key: (row: T) => K): Map<K, T[]> {
  const groups = new Map<K, T[]>();
  for (const row of rows) {
    const known = groups.get(key(row));
    if (known) known.push(row);
    else groups.set(key(row), [row]);
  }
  return groups;
}
