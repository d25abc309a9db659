/** A small seeded generator (mulberry32): the same seed gives the same demo. */
export interface Random {
  /** 0 ≤ x < 1. */
  next(): number;
  /** A whole number from `from` to `to`, both included. */
  int(from: number, to: number): number;
  pick<T>(list: readonly T[]): T;
  chance(p: number): boolean;
}

export function seeded(seed: number): Random {
  let state = seed >>> 0;
  const next = () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = state;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4_294_967_296;
  };
  return {
    next,
    int: (from, to) => from + Math.floor(next() * (to - from + 1)),
    pick: (list) => list[Math.floor(next() * list.length)],
    chance: (p) => next() < p,
  };
}
