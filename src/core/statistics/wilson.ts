/** An interval of a share, from 0 to 1; null ends where nothing was counted. */
export interface Interval {
  low: number | null;
  high: number | null;
}

/** The standard normal's 97.5 % point. */
const Z = 1.959963984540054;

/**
 * The 95 % interval of a share by Wilson's score, which stays within 0 and 1 and holds for small counts.
 * Source: E. B. Wilson, Journal of the American Statistical Association 22 (1927), 209–212.
 *
 * @example wilson(8, 10) // { low: 0.4902, high: 0.9433 }
 */
export function wilson(found: number, of: number): Interval {
  if (of === 0) return { low: null, high: null };
  const share = found / of;
  const spread = Z * Math.sqrt((share * (1 - share)) / of + (Z * Z) / (4 * of * of));
  const [middle, scale] = [share + (Z * Z) / (2 * of), 1 + (Z * Z) / of];
  return { low: Math.max(0, (middle - spread) / scale), high: Math.min(1, (middle + spread) / scale) };
}
