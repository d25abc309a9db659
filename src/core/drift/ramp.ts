const ROUNDING = 1e-9;

/** 0 at or below `from`, 1 at or above `to`, linear between. */
export function ramp(x: number, from: number, to: number): number {
  // What is left of adding up is not a reason.
  if (x - from <= ROUNDING) return 0;
  if (x >= to) return 1;
  return (x - from) / (to - from);
}
