/** Logistic regression with weights that may not fall below 0 and are drawn toward a prior. */

/** What is to be fitted: a column for each weight, one value a row. */
export interface Rows {
  /** Whether it came to pass, 0 or 1. */
  y: ArrayLike<number>;
  /** Columns whose weights are 0 or more, and drawn toward a prior. */
  held: readonly Float64Array[];
  /** Columns whose weights are free; a constant is always among them. */
  free: readonly Float64Array[];
}

export interface Prior {
  /** Of each held weight. */
  at: readonly number[];
  /** How strongly they are drawn toward it. */
  strength: number;
}

export interface Fitted {
  held: number[];
  free: number[];
  constant: number;
}

const MOST_SWEEPS = 200;
const ENOUGH = 1e-7;

/**
 * Minimises `−log likelihood + (λ / 2) Σ (β − β⁰)²` with β ≥ 0 of the held weights, by Newton's steps of one weight after the
 * other, each cut off at 0 (cyclic coordinate descent).
 *
 * @param prior none for a plain regression, whose held weights are 0 or more all the same
 */
export function fitLogistic({ y, held, free }: Rows, prior: Prior | null): Fitted {
  const count = y.length;
  const columns = [...held, ...free, new Float64Array(count).fill(1)];
  const weights = columns.map((_, index) => (prior && index < held.length ? prior.at[index] : 0));
  const sum = new Float64Array(count);
  columns.forEach((column, index) => {
    if (weights[index] !== 0) for (let row = 0; row < count; row += 1) sum[row] += weights[index] * column[row];
  });
  for (let sweep = 0; sweep < MOST_SWEEPS; sweep += 1) {
    let largest = 0;
    for (let index = columns.length - 1; index >= 0; index -= 1) {
      const column = columns[index];
      let [slope, curve] = [0, 0];
      for (let row = 0; row < count; row += 1) {
        const x = column[row];
        if (x === 0) continue;
        const p = 1 / (1 + Math.exp(-sum[row]));
        slope += (p - y[row]) * x;
        curve += p * (1 - p) * x * x;
      }
      const isHeld = index < held.length;
      if (isHeld && prior) {
        slope += prior.strength * (weights[index] - prior.at[index]);
        curve += prior.strength;
      }
      if (curve < 1e-12) continue;
      const wanted = weights[index] - slope / curve;
      const next = isHeld ? Math.max(0, wanted) : wanted;
      const step = next - weights[index];
      if (step === 0) continue;
      weights[index] = next;
      for (let row = 0; row < count; row += 1) sum[row] += step * column[row];
      largest = Math.max(largest, Math.abs(step));
    }
    if (largest < ENOUGH) break;
  }
  return {
    held: weights.slice(0, held.length),
    free: weights.slice(held.length, -1),
    constant: weights[weights.length - 1],
  };
}
