/**
 * A number of per cent in words; a dash where there is none.
 *
 * @param digits after the point at most
 * @example sayPercent(71.25) // '71 %'
 * @example sayPercent(71.25, 1) // '71.3 %'
 */
export function sayPercent(percent: number | null, digits = 0): string {
  if (percent === null) return '–';
  const scale = 10 ** digits;
  return `${Math.round(percent * scale) / scale} %`;
}

/** A share from 0 to 1 as whole per cent. @example sayShare(0.7125) // '71 %' */
export function sayShare(share: number | null): string {
  return sayPercent(share === null ? null : 100 * share);
}
