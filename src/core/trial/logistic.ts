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

const MOST_STEPS = 50;
const MOST_SWEEPS = 1000;
/** Moves smaller than this are none. */
const ENOUGH = 1e-8;
const SMALLEST_PART = 1e-4;
/** A column that says less than this says nothing. */
const NOTHING = 1e-12;

/** What is minimised at some weights, with its slope and its curve there. */
interface Place {
  loss: number;
  slope: Float64Array;
  /** The second derivatives, a row for each weight. */
  curve: Float64Array[];
}

/** `log(1 + eˢ)`, also of an s whose power is beyond numbers. */
const logOnePlusExp = (s: number) => Math.max(s, 0) + Math.log1p(Math.exp(-Math.abs(s)));

function placeAt(
  weights: readonly number[],
  columns: readonly Float64Array[],
  y: ArrayLike<number>,
  prior: Prior | null,
): Place {
  const size = columns.length;
  const slope = new Float64Array(size);
  const curve = columns.map(() => new Float64Array(size));
  const step = new Float64Array(size);
  let loss = 0;
  for (let row = 0; row < y.length; row += 1) {
    let sum = 0;
    for (let index = 0; index < size; index += 1) {
      step[index] = columns[index][row];
      sum += weights[index] * step[index];
    }
    loss += logOnePlusExp(sum) - y[row] * sum;
    const p = 1 / (1 + Math.exp(-sum));
    const [off, spread] = [p - y[row], p * (1 - p)];
    for (let index = 0; index < size; index += 1) {
      const x = step[index];
      if (x === 0) continue;
      slope[index] += off * x;
      const line = curve[index];
      for (let other = 0; other <= index; other += 1) line[other] += spread * x * step[other];
    }
  }
  for (let index = 0; index < size; index += 1)
    for (let other = 0; other < index; other += 1) curve[other][index] = curve[index][other];
  prior?.at.forEach((at, index) => {
    const away = weights[index] - at;
    loss += (prior.strength / 2) * away ** 2;
    slope[index] += prior.strength * away;
    curve[index][index] += prior.strength;
  });
  return { loss, slope, curve };
}

/** The move that is best by slope and curve alone, with which the first `held` weights stay 0 or more. */
function moveFrom({ slope, curve }: Place, weights: readonly number[], held: number): number[] {
  const move = weights.map(() => 0);
  for (let sweep = 0; sweep < MOST_SWEEPS; sweep += 1) {
    let largest = 0;
    for (let index = weights.length - 1; index >= 0; index -= 1) {
      const line = curve[index];
      if (line[index] < NOTHING) continue;
      let pull = slope[index];
      for (let other = 0; other < move.length; other += 1) pull += line[other] * move[other];
      const wanted = move[index] - pull / line[index];
      const next = index < held ? Math.max(-weights[index], wanted) : wanted;
      largest = Math.max(largest, Math.abs(next - move[index]));
      move[index] = next;
    }
    if (largest < ENOUGH / 10) break;
  }
  return move;
}

/**
 * Minimises `−log likelihood + (λ / 2) Σ (β − β⁰)²` with β ≥ 0 of the held weights, by Newton's steps: each goes where the
 * quadratic that fits here is least among weights that may be, and half as far as often as it would be no better there.
 *
 * @param prior none for a plain regression, whose held weights are 0 or more all the same
 * @param pause called between steps; what it throws ends it
 */
export async function fitLogistic(
  { y, held, free }: Rows,
  prior: Prior | null,
  pause: () => Promise<void> = async () => undefined,
): Promise<Fitted> {
  const columns = [...held, ...free, new Float64Array(y.length).fill(1)];
  let weights = columns.map((_, index) => (prior && index < held.length ? prior.at[index] : 0));
  let here = placeAt(weights, columns, y, prior);
  for (let taken = 0; taken < MOST_STEPS; taken += 1) {
    await pause();
    const move = moveFrom(here, weights, held.length);
    if (move.every((by) => Math.abs(by) < ENOUGH)) break;
    const along = (part: number) =>
      weights.map((weight, index) => {
        const next = weight + part * move[index];
        // A weight that goes all the way to 0 is 0, and not a rounding beside it.
        return index < held.length && next < NOTHING ? 0 : next;
      });
    let part = 1;
    let next = along(part);
    let there = placeAt(next, columns, y, prior);
    while (there.loss > here.loss && part > SMALLEST_PART) {
      part /= 2;
      next = along(part);
      there = placeAt(next, columns, y, prior);
    }
    if (there.loss > here.loss) break;
    [weights, here] = [next, there];
  }
  return {
    held: weights.slice(0, held.length),
    free: weights.slice(held.length, -1),
    constant: weights[weights.length - 1],
  };
}
