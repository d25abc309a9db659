import { describe, expect, it } from 'vitest';
import { seeded } from './bootstrap';
import type { Seen } from './cohort';
import { ENOUGH_TO_FIT, fitWeights, type FitCohort } from './fit';
import { fitLogistic } from './logistic';

const column = (...values: number[]) => Float64Array.from(values);

describe('logistic regression', () => {
  it('finds the odds of a constant, and of a column of two values', () => {
    const { constant } = fitLogistic({ y: [1, 0, 0, 0], held: [], free: [] }, null);
    expect(constant).toBeCloseTo(Math.log(1 / 3), 5);
    const y = [1, 1, 1, 0, 1, 0, 0, 0];
    const x = column(1, 1, 1, 1, 0, 0, 0, 0);
    const found = fitLogistic({ y, held: [], free: [x] }, null);
    expect(found.constant).toBeCloseTo(Math.log(1 / 3), 4);
    expect(found.free[0]).toBeCloseTo(2 * Math.log(3), 4);
    expect(fitLogistic({ y, held: [x], free: [] }, null).held[0]).toBeCloseTo(2 * Math.log(3), 4);
  });

  it('lets no held weight fall below 0, and draws it toward its prior', () => {
    const y = [0, 0, 0, 1, 1, 1, 1, 0];
    const x = column(1, 1, 1, 1, 0, 0, 0, 0);
    expect(fitLogistic({ y, held: [x], free: [] }, null).held).toEqual([0]);
    expect(fitLogistic({ y, held: [], free: [x] }, null).free[0]).toBeLessThan(-1);
    const drawn = (strength: number) => fitLogistic({ y, held: [x], free: [] }, { at: [3], strength }).held[0];
    expect(drawn(1e6)).toBeCloseTo(3, 3);
    expect(drawn(1)).toBeLessThan(drawn(16));
    // A column of nothing says nothing: it stays where it is drawn to.
    expect(fitLogistic({ y, held: [new Float64Array(8)], free: [] }, { at: [2], strength: 16 }).held).toEqual([2]);
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
        gone: { hasCome: true, days },
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
