import { describe, expect, it } from 'vitest';
import { seeded } from './bootstrap';
import type { Seen } from './cohort';
import { ENOUGH_TO_FIT, fitWeights, type FitCohort } from './fit';
import { fitLogistic, type Fitted, type Prior, type Rows } from './logistic';

const column = (...values: number[]) => Float64Array.from(values);

describe('logistic regression', () => {
  it('finds the odds of a constant, and of a column of two values', async () => {
    const { constant } = await fitLogistic({ y: [1, 0, 0, 0], held: [], free: [] }, null);
    expect(constant).toBeCloseTo(Math.log(1 / 3), 5);
    const y = [1, 1, 1, 0, 1, 0, 0, 0];
    const x = column(1, 1, 1, 1, 0, 0, 0, 0);
    const found = await fitLogistic({ y, held: [], free: [x] }, null);
    expect(found.constant).toBeCloseTo(Math.log(1 / 3), 4);
    expect(found.free[0]).toBeCloseTo(2 * Math.log(3), 4);
    expect((await fitLogistic({ y, held: [x], free: [] }, null)).held[0]).toBeCloseTo(2 * Math.log(3), 4);
  });

  it('lets no held weight fall below 0, and draws it toward its prior', async () => {
    const y = [0, 0, 0, 1, 1, 1, 1, 0];
    const x = column(1, 1, 1, 1, 0, 0, 0, 0);
    expect((await fitLogistic({ y, held: [x], free: [] }, null)).held).toEqual([0]);
    expect((await fitLogistic({ y, held: [], free: [x] }, null)).free[0]).toBeLessThan(-1);
    const drawn = async (strength: number) =>
      (await fitLogistic({ y, held: [x], free: [] }, { at: [3], strength })).held[0];
    expect(await drawn(1e6)).toBeCloseTo(3, 3);
    expect(await drawn(1)).toBeLessThan(await drawn(16));
    // A column of nothing says nothing: it stays where it is drawn to.
    const nothing = { y, held: [new Float64Array(8)], free: [] };
    expect((await fitLogistic(nothing, { at: [2], strength: 16 })).held).toEqual([2]);
  });
});

describe('where a regression ends', () => {
  const random = seeded(77);
  const columnOf = (rows: number, of: () => number) => Float64Array.from({ length: rows }, of);
  /** Rows in which the first held column tells, the second tells the other way, and the third nothing. */
  const rowsOf = (rows: number): Rows => {
    const held = [0, 1, 2].map(() => columnOf(rows, random));
    const free = [columnOf(rows, () => 3 * random() - 1)];
    const y = columnOf(rows, () => 0).map((_, row) => {
      const sum = 3 * held[0][row] - 2 * held[1][row] - free[0][row] - 1;
      return Number(random() < 1 / (1 + Math.exp(-sum)));
    });
    return { y, held, free };
  };
  const lossOf = ({ y, held, free }: Rows, prior: Prior | null, { constant, ...at }: Fitted) => {
    let loss = 0;
    for (let row = 0; row < y.length; row += 1) {
      let sum = constant;
      held.forEach((column, index) => (sum += at.held[index] * column[row]));
      free.forEach((column, index) => (sum += at.free[index] * column[row]));
      loss += Math.log(1 + Math.exp(sum)) - y[row] * sum;
    }
    prior?.at.forEach((to, index) => (loss += (prior.strength / 2) * (at.held[index] - to) ** 2));
    return loss;
  };

  it.each([
    ['without a prior', null],
    ['with a weak one', { at: [1, 1, 1], strength: 1 }],
    ['with a strong one', { at: [1, 0, 2], strength: 200 }],
  ] satisfies [string, Prior | null][])('is least of all that may be nearby, %s', async (_, prior) => {
    const rows = rowsOf(400);
    const found = await fitLogistic(rows, prior);
    const least = lossOf(rows, prior, found);
    for (const by of [-0.01, 0.01]) {
      found.held.forEach((weight, index) => {
        if (weight + by < 0) return;
        const held = found.held.with(index, weight + by);
        expect(lossOf(rows, prior, { ...found, held })).toBeGreaterThan(least);
      });
      expect(lossOf(rows, prior, { ...found, free: [found.free[0] + by] })).toBeGreaterThan(least);
      expect(lossOf(rows, prior, { ...found, constant: found.constant + by })).toBeGreaterThan(least);
    }
    if (prior === null) expect(found.held[1]).toBe(0);
  });

  it('is at numbers where a column tells everything, and where all or none came to pass', async () => {
    const x = column(...Array.from({ length: 40 }, (_, row) => Number(row >= 20)));
    for (const y of [x, x.map(() => 0), x.map(() => 1)]) {
      const { held, free, constant } = await fitLogistic({ y, held: [x], free: [x.map((one) => 50 * one)] }, null);
      for (const weight of [...held, ...free, constant]) expect(Number.isFinite(weight)).toBe(true);
      expect(held[0]).toBeGreaterThanOrEqual(0);
    }
  });

  it('is the constant alone of no rows and no columns', async () => {
    expect(await fitLogistic({ y: [], held: [], free: [] }, null)).toEqual({ held: [], free: [], constant: 0 });
  });

  it('is not come to when whoever waits calls it off', async () => {
    let asked = 0;
    const stop = async () => {
      asked += 1;
      if (asked === 2) throw new Error('enough');
    };
    await expect(fitLogistic(rowsOf(100), null, stop)).rejects.toThrow('enough');
    expect(asked).toBe(2);
  });
});

/**
 * A cohort in which one factor of two tells who leaves: `telling` of the first's rows show it in the four weeks before; the
 * second is noise.
 */
function cohort(people: number, leaving: number, telling: number, seed: number): FitCohort {
  const random = seeded(seed);
  for (let i = 0; i < 10; i += 1) random();
  const learners = Array.from({ length: people }, (_, id) => ({
    id,
    left: id < leaving,
    lastDay: id < leaving ? 30 + Math.floor(40 * random()) : 98,
  }));
  const weeks = Array.from({ length: 14 }, (_, index) => {
    const day = 7 * index + 6;
    const seen = learners.map(({ left, lastDay }, place): Seen => {
      const isAbout = left && lastDay >= day - 7 && lastDay <= day + 28;
      const first = random() < (isAbout ? telling : 0.1) ? 1 : random() < 0.1 ? null : 0;
      const days = Math.max(0, day - lastDay);
      return {
        place,
        values: [first, random() < 0.4 ? 1 : 0],
        byAnybody: [true, true],
        elapsed: 0.5,
        without: null,
        absence: { hasCome: true, days },
      };
    });
    return { day, week: index + 1, seen };
  });
  return { start: 0, end: 97, learners, weeks, groups: learners.map(() => 1), contacts: learners.map(() => []) };
}

describe('fitted weights', () => {
  it('go to the factor that tells, and are proposed where that is clear on what was left out', async () => {
    const cohorts = [1, 2, 3].map((seed) => cohort(120, 30, 0.6, seed));
    const found = await fitWeights(cohorts, [50, 50]);
    expect(found.isProposed).toBe(true);
    expect(found.weights![0]).toBeGreaterThan(85);
    expect(found.weights!.reduce((sum, weight) => sum + weight, 0)).toBeCloseTo(100, 9);
    expect(found.gain!.value).toBeCloseTo(found.areas!.fitted - found.areas!.defaults, 12);
    expect(found.gain!.value).toBeGreaterThan(found.gain!.error);
    // The same again: nothing in it is by chance.
    expect(await fitWeights(cohorts, [50, 50])).toEqual(found);
  });

  it('are not proposed where the defaults fit already', async () => {
    const found = await fitWeights([cohort(240, 60, 0.6, 5)], [100, 0]);
    expect(found).toMatchObject({ isProposed: false, leavers: 60 });
    expect(found.weights![0]).toBeGreaterThan(85);
    expect(found.says).toMatch(/^Not proposed: /);
  });

  it('are refused where there are too few leavers, and where nobody could be judged', async () => {
    const few = await fitWeights([cohort(120, ENOUGH_TO_FIT - 1, 0.6, 1)], [50, 50]);
    expect(few).toMatchObject({ weights: null, gain: null, isProposed: false });
    expect(few.says).toMatch(/^Refused: 39 leavers/);
    expect((await fitWeights([], [50, 50])).says).toMatch(/^Refused: 0 leavers/);
    // Whoever was contacted is left out for 28 days: here that is everybody, always.
    const own = cohort(120, 60, 0.6, 1);
    const always = Array.from({ length: 14 }, (_, week) => 7 * week);
    const spoiled = { ...own, contacts: own.learners.map(() => always) };
    expect((await fitWeights([spoiled], [50, 50])).says).toMatch(/everybody who could be judged left, or nobody did/);
  });

  it('can be ended between its steps', async () => {
    const stop = () => Promise.reject(new Error('enough'));
    await expect(fitWeights([cohort(120, 50, 0.6, 1)], [50, 50], stop)).rejects.toThrow('enough');
  });
});
