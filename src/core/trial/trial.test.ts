import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { openAuc } from './auc';
import { countDraws, estimateOf, seeded, shuffled } from './bootstrap';
import { isLeaver, listWeekly, openOutcome, reachedOn, type RankedWeek, type TrialLearner } from './replay';
import { slotsEach } from './lists';

const everybody = (count: number) => Array.from({ length: count }, (_, place) => place);
const weeks = (...ranked: number[][]): RankedWeek[] =>
  ranked.map((one, index) => ({ day: 6 + 7 * index, week: index + 1, ranked: one }));
const stayed: TrialLearner = { id: 1, left: false, lastDay: 90 };
const left = (lastDay: number | null): TrialLearner => ({ id: 2, left: true, lastDay });

describe('listing week by week', () => {
  it('takes as many as there are places, and whoever was listed gives up theirs for 28 days', () => {
    const all = [0, 1, 2];
    const { listings, perWeek } = listWeekly(weeks(all, all, all, all, all), 3, [1, 1, 1, 1, 1]);
    // The first, the second, the third, nobody, and the first again on the 28th day.
    expect(listings).toEqual([[6, 34], [13], [20]]);
    expect(perWeek).toEqual([1, 1, 1, 0, 1]);
  });

  it('lists all that a rule names where there is no end of places', () => {
    expect(listWeekly(weeks([2, 0], [1]), 3, [null, null])).toEqual({ listings: [[6], [13], [6]], perWeek: [2, 1] });
    expect(listWeekly([], 2, [])).toEqual({ listings: [[], []], perWeek: [] });
    expect(listWeekly(weeks([0]), 1, [0]).perWeek).toEqual([0]);
  });
});

describe('places', () => {
  it('are whole, and come to so many a week', () => {
    expect(slotsEach(4, 1.5)).toEqual([1, 2, 1, 2]);
    expect(slotsEach(10, 0.3).reduce((sum, one) => sum + one, 0)).toBe(3);
    expect(slotsEach(3, 0)).toEqual([0, 0, 0]);
  });
});

describe('what it came to', () => {
  it('reaches a leaver from 28 days before their last activity to 7 after it', () => {
    expect([21, 22, 50, 57, 58].map((day) => reachedOn(left(50), [day]))).toEqual([null, 22, 50, 57, null]);
    // The first in time is the one that counts.
    expect(reachedOn(left(50), [10, 30, 45])).toBe(30);
    expect(reachedOn(left(null), [10])).toBeNull();
    expect([isLeaver(left(3)), isLeaver(left(null)), isLeaver(stayed)]).toEqual([true, false, false]);
  });

  it('is reach, precision and lead, with nothing to divide by said as such', () => {
    const learners = [left(50), left(60), stayed, left(null)];
    const listings = [[30, 58], [], [40], [20]];
    const of = openOutcome(learners, listings);
    expect(of()).toEqual({ recall: 0.5, precision: 3 / 4, lead: 20 });
    expect(of([0, 0, 1, 0])).toEqual({ recall: null, precision: 0, lead: null });
    expect(openOutcome(learners, [[], [], [], []])()).toEqual({ recall: 0, precision: null, lead: null });
    // Drawn twice, somebody counts twice.
    expect(of([2, 1, 0, 0])).toMatchObject({ recall: 2 / 3, lead: 20 });
    const both = openOutcome(learners, [[30], [50], [], []]);
    expect([both().lead, both([3, 1, 0, 0]).lead, both([1, 2, 0, 0]).lead]).toEqual([15, 20, 10]);
  });
});

describe('drawing again', () => {
  it('is the same for the same seed, with replacement, or all of them in another order', () => {
    expect(countDraws(50, seeded(7))).toEqual(countDraws(50, seeded(7)));
    expect(countDraws(50, seeded(7))).not.toEqual(countDraws(50, seeded(8)));
    const drawn = [...countDraws(1000, seeded(1))];
    expect(drawn.reduce((sum, count) => sum + count, 0)).toBe(1000);
    // About 1 in e is not drawn.
    expect(Math.abs(drawn.filter((count) => count === 0).length / 1000 - 1 / Math.E)).toBeLessThan(0.05);
    const random = seeded(3);
    const order = shuffled(everybody(100), random);
    expect([...order].sort((a, b) => a - b)).toEqual(everybody(100));
    expect(order).not.toEqual(everybody(100));
  });

  it('gives the middle 90 %', () => {
    const again = Array.from({ length: 101 }, (_, i) => i);
    expect(estimateOf(42, [...again, null])).toEqual({ value: 42, low: 5, high: 95 });
    expect(estimateOf(null, again)).toEqual({ value: null, low: null, high: null });
  });
});

const auc = (scores: number[], isTrue: boolean[]) => openAuc(scores, isTrue)();

describe('the area under the ROC curve', () => {
  it('is the share of pairs that stand in the right order, a tie half', () => {
    expect(auc([1, 2, 3, 4], [false, false, true, true])).toBe(1);
    expect(auc([4, 3, 2, 1], [false, false, true, true])).toBe(0);
    expect(auc([5, 5, 5, 5], [false, true, true, false])).toBe(0.5);
    expect(auc([1, 2], [true, true])).toBeNull();
    expect(auc([], [])).toBeNull();
  });

  it('counts somebody as often as they were drawn', () => {
    const of = openAuc([1, 2, 3], [true, false, true]);
    expect(of()).toBe(0.5);
    expect(of([0, 1, 2])).toBe(1);
    expect(of([3, 1, 1])).toBe(0.25);
    expect(of([1, 0, 1])).toBeNull();
  });

  it('agrees with counting pairs one by one', () => {
    const rows = fc.array(fc.tuple(fc.integer({ min: 0, max: 6 }), fc.boolean()), { maxLength: 30 });
    fc.assert(
      fc.property(rows, (list) => {
        const [trues, falses] = [true, false].map((kind) =>
          list.filter(([, is]) => is === kind).map(([score]) => score),
        );
        const pairs = trues.flatMap((a) => falses.map((b) => (a > b ? 1 : a === b ? 0.5 : 0)));
        const plain = pairs.length === 0 ? null : pairs.reduce((sum: number, one) => sum + one, 0) / pairs.length;
        const found = auc(
          list.map(([score]) => score),
          list.map(([, is]) => is),
        );
        if (plain === null) expect(found).toBeNull();
        else expect(found).toBeCloseTo(plain, 12);
      }),
    );
  });
});
