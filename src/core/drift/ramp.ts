/** 0 at or below `from`, 1 at or above `to`, linear between. */
export function ramp(x: number, from: number, to: number): number {
  if (x <= from) return 0;
  if (x >= to) return 1;
  return (x - from) / (to - from);
}
