/** The one clock. Nothing else asks the machine for the time. */

export interface Clock {
  /** Now, in epoch ms: frozen when LEESHORE_NOW is set. Everything shown or stored as a date uses this. */
  now(): number;
  /**
   * Real time in epoch ms, never frozen: only for waiting (retries, leases, delays after
   * failed sign-ins), which would never end on a frozen clock.
   */
  real(): number;
}

export function makeClock(frozen: number | null): Clock {
  return { now: () => frozen ?? Date.now(), real: () => Date.now() };
}
