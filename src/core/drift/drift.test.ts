import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { bandOf, combine, nextBand } from './bands';
import { countedDays, mergeRanges } from './counted-days';
import { quantile } from '../statistics/quantile';
import { expectedGap, groupGap, ownGaps } from './expected-gap';
import { DEFAULT_MODEL, FACTORS, elapsedShare, reasonTitle, sayNotCounted, weightAt, weightOf } from './model';
import { quiet } from './quiet';
import { ramp } from './ramp';
import { groupReadings, type Member } from './readings';
import { assess, judgedByAnybody, readDrift, wholePoints } from './score';
import { sayWhole } from './sentences';
import { daily, facts } from './testing';
import { NO_WORK } from './work';
import type { EnrolmentFacts, Factor, Model } from './types';

it('ramp is 0 at or below a, 1 at or above b, linear between', () => {
  expect([1, 1.5, 3.25, 5, 9].map((x) => ramp(x, 1.5, 5))).toEqual([0, 0, 0.5, 1, 1]);
});

describe('counted days', () => {
  it('leave out breaks, once where they overlap', () => {
    expect(
      mergeRanges([
        [5, 7],
        [6, 9],
        [20, 19],
        [10, 11],
      ]),
    ).toEqual([[5, 11]]);
    expect(countedDays(0, 10, [])).toBe(10);
    expect(countedDays(4, 12, [[5, 11]])).toBe(1);
    expect(countedDays(6, 9, [[5, 11]])).toBe(0);
    expect(countedDays(10, 10, [])).toBe(0);
    expect(countedDays(11, 10, [])).toBe(0);
  });

  it('agree with counting one by one', () => {
    const ranges = fc.array(fc.tuple(fc.integer({ min: 0, max: 40 }), fc.integer({ min: 0, max: 8 })), {
      maxLength: 6,
    });
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 40 }), fc.integer({ min: 0, max: 40 }), ranges, (a, b, list) => {
        const skipped = mergeRanges(list.map(([from, length]) => [from, from + length] as const));
        const plain = daily(a + 1, b).filter((day) => !skipped.some(([from, to]) => day >= from && day <= to)).length;
        expect(countedDays(a, b, skipped)).toBe(b > a ? plain : 0);
      }),
    );
  });
});

describe('the expected gap', () => {
  it('is measured in counted days', () => {
    expect(ownGaps([1, 2, 10, 12], [[3, 8]])).toEqual([1, 2, 2]);
    expect(ownGaps([2, 9], [[3, 9]])).toEqual([]);
  });

  it('interpolates quantiles', () => {
    expect(quantile([], 0.75)).toBeNull();
    expect(quantile([3], 0.75)).toBe(3);
    expect(quantile([1, 2, 3, 4], 0.75)).toBe(3.25);
  });

  it('pulls the own habit toward the group’s: (n·own + 4·group) / (n + 4)', () => {
    expect(expectedGap([2, 2, 2, 2], 4)).toBe(3);
    expect(expectedGap([], 4)).toBe(4);
    expect(expectedGap([5, 5], null)).toBe(5);
    expect(expectedGap([], null)).toBe(3);
  });

  it('stays between 1 and 14 days', () => {
    expect(expectedGap([0.2], 0.1)).toBe(1);
    expect(expectedGap([40, 40], 30)).toBe(14);
  });

  it('takes the median over the learners of the group who have a gap', () => {
    expect(groupGap([[1, 1], [3], [], [9]])).toBe(3);
    expect(groupGap([[], []])).toBeNull();
  });
});

describe('quiet', () => {
  it('is null of whoever was never there, who stands on a list of their own', () => {
    expect(quiet.assess(facts({ day: 60, enrolledDay: 10 }), 2)).toBeNull();
    expect(quiet.assess(facts({ day: 11, enrolledDay: 10, activeDays: [11] }), 2)?.value).toBe(0);
  });

  it('compares the quiet with the usual gap: from half as long again to four times', () => {
    const regular = facts({ activeDays: daily(0, 90, 2) });
    expect(quiet.assess(regular, 2)).toMatchObject({
      value: 1,
      says: { name: 'quiet', days: 10, counted: 10, usual: 2 },
    });
    expect(quiet.assess({ ...regular, day: 96 }, 2)?.value).toBeCloseTo((3 - 1.5) / 2.5);
    const weekly = facts({ activeDays: daily(0, 91, 7) });
    expect(quiet.assess(weekly, 7)?.value).toBe(0);
  });

  it('does not count a break, and says so', () => {
    const rested = facts({ activeDays: daily(0, 90), skipped: [[91, 98]] });
    expect(quiet.assess(rested, 1)).toMatchObject({
      says: { name: 'quiet', days: 10, counted: 2, usual: 1 },
    });
  });
});

describe('drift', () => {
  const fixed = (name: string, value: number | null, weight = quiet.weight): Factor => ({
    ...quiet,
    name,
    weight,
    assess: () => (value === null ? null : { value, says: { name: 'no_hand_in', days: 1 } }),
  });
  const of = (...factors: Factor[]): Model => ({ ...DEFAULT_MODEL, factors });
  /** Nobody to be held against. */
  const ALONE = Array<null>(29).fill(null);
  /** @param beside what others of the group could be judged by */
  const read = (known: EnrolmentFacts, usual: number, model = DEFAULT_MODEL, beside = model) => {
    const [own, others] = [model, beside].map((one) =>
      assess(known, { quiet: usual, working: ALONE, talking: ALONE, falling: [] }, one),
    );
    return readDrift(known, own, judgedByAnybody([own, others]));
  };
  const ten = { early: 10, late: 10 };
  const twenty = { early: 20, late: 20 };
  const thirty = { early: 30, late: 30 };

  it('is the weighted mean, and its points add up to it exactly', () => {
    const known = facts({ day: 7, activeDays: [0] });
    const factors = [fixed('quiet', 1, thirty), fixed('marks', 0.5, ten), fixed('sessions', 0, twenty)];
    const reading = read(known, 1, of(...factors));
    expect(reading.score).toBeCloseTo((100 * (30 + 5)) / 60);
    expect(reading.reasons.map((reason) => reason.factor)).toEqual(['quiet', 'marks', 'sessions']);
    expect(reading.reasons.reduce((sum, reason) => sum + reason.points, 0)).toBe(reading.score);
    // Another model weighs the same factors otherwise.
    const weights = { quiet: { early: 0, late: 0 }, marks: { early: 20, late: 20 } };
    expect(read(known, 1, { ...of(...factors), weights }).score).toBeCloseTo((100 * 10) / 40);
  });

  it('of the learner in docs/drift.md is what is worked out there by hand', () => {
    const byHand = {
      missing: 0.4 / 0.6,
      working: (1 - 4 / 16) / 0.8,
      behind: 0.5,
      sessions: 0.5,
      marks: 13 / 30,
      no_hand_in: 4 / 11,
      quiet: 0.6,
      late: 0.25 / 0.75,
    };
    const factors = FACTORS.map((factor) =>
      fixed(factor.name, byHand[factor.name as keyof typeof byHand] ?? null, factor.weight),
    );
    const { score, reasons, notCounted } = read(facts({ activeDays: [94] }), 2, of(...factors));
    expect(score).toBeCloseTo(56.7, 1);
    expect(reasons.map(({ factor }) => factor)).toEqual(Object.keys(byHand));
    expect(reasons.map(({ points }) => points.toFixed(2))).toEqual([
      '16.67',
      '11.72',
      '6.25',
      '6.25',
      '5.42',
      '4.55',
      '3.75',
      '2.08',
    ]);
    expect(notCounted).toEqual(['talking', 'falling']);
  });

  it('has no reading when less than 40 % of the weight can be judged', () => {
    const early = facts({ day: 7, activeDays: [0] });
    const factors = [
      fixed('quiet', 1, thirty),
      fixed('marks', null, ten),
      fixed('sessions', null, twenty),
      fixed('overdue', null, twenty),
    ];
    const another = of(fixed('marks', 0, ten), fixed('sessions', 0, twenty), fixed('overdue', 0, twenty));
    expect(read(early, 1, of(...factors), another)).toMatchObject({
      score: null,
      without: 'little',
      notCounted: ['marks', 'sessions', 'overdue'],
    });
    // What nobody of the group can be judged by is not missed.
    expect(read(early, 1, of(...factors)).score).toBe(100);
  });

  it('has no reading when the feed was blind for the last 7 days that are no break', () => {
    const blind = facts({ activeDays: [90], skipped: [[92, 100]], feedGaps: [[94, 100]] });
    expect(read(blind, 1).score).toBeNull();
    const seen = facts({ activeDays: [90], skipped: [[95, 100]], feedGaps: [[95, 100]] });
    expect(read(seen, 1).score).not.toBeNull();
  });

  it('has none in the first seven days of somebody’s time in the course', () => {
    const on = (day: number) => read(facts({ day, enrolledDay: 3, courseStart: 20, activeDays: [20] }), 1);
    expect(on(26)).toMatchObject({ score: null, without: 'early' });
    expect(on(27).score).not.toBeNull();
  });

  it('has none of whoever has done everything required, from that day on', () => {
    const work = { ...NO_WORK, required: 2, doneDays: [8, 95] };
    expect(read(facts({ day: 94, activeDays: [20], work }), 1).score).not.toBeNull();
    expect(read(facts({ day: 95, activeDays: [20], work }), 1)).toMatchObject({ score: null, without: 'finished' });
  });

  it('does not hold a quiet week against whoever is ahead and owes nothing, and says so', () => {
    // Ten weekly items, two of them planned by day 20 and four done.
    const plan = daily(10, 100, 10);
    const quietOne = (doneDays: number[], more = {}) =>
      facts({
        day: 25,
        activeDays: [1, 2],
        work: { ...NO_WORK, tracks: [{ needs: [], plan, done: doneDays }], required: 10, doneDays, ...more },
      });
    const ahead = read(quietOne([1, 2, 3, 4]), 1);
    expect(ahead.score).toBe(0);
    expect(sayWhole(ahead.reasons.find(({ factor }) => factor === 'quiet')!.says)).toBe(
      'Quiet 23 days · usually daily · 3.5 weeks ahead of plan and nothing overdue: not held against them',
    );
    expect(read(quietOne([1, 2]), 1).score).toBeGreaterThan(0);
    const withOverdue = { dueItems: [{ itemId: 1, dueAt: 20 * 86_400_000, dueDay: 20, opensDay: 0 }], own: [null] };
    expect(read(quietOne([1, 2, 3, 4], withOverdue), 1).score).toBeGreaterThan(0);
  });

  it('weighs by the elapsed share of the course', () => {
    const model = { ...DEFAULT_MODEL, weights: { quiet: { early: 30, late: 20 } } };
    expect(weightAt(weightOf(model, quiet), 0.5)).toBe(25);
    expect(weightOf(DEFAULT_MODEL, quiet)).toEqual({ early: 5, late: 5 });
    expect(FACTORS.reduce((sum, { weight }) => sum + weight.early, 0)).toBe(100);
    expect([
      elapsedShare(-5, 0, 10),
      elapsedShare(5, 0, 10),
      elapsedShare(99, 0, 10),
      elapsedShare(5, null, 10),
    ]).toEqual([0, 0.5, 1, 0.5]);
  });

  it('has a title, and words for what it could not judge, for every factor', () => {
    expect(FACTORS.map(({ name }) => reasonTitle(name))).toEqual([
      'Missing work',
      'Behind plan',
      'Working',
      'Talking',
      'Sessions',
      'Marks',
      'Falling marks',
      'No hand-in',
      'Late work',
      'Quiet',
    ]);
    expect(sayNotCounted('talking')).toBe('talking (too little talk in the group)');
    expect(reasonTitle('one that is no more')).toBe('one that is no more');
  });

  it('rounds points so that they still add up', () => {
    expect(wholePoints([33.4, 33.3, 33.3])).toEqual([34, 33, 33]);
    fc.assert(
      fc.property(fc.array(fc.double({ min: 0, max: 30, noNaN: true }), { maxLength: 8 }), (points) => {
        const total = points.reduce((sum, value) => sum + value, 0);
        expect(wholePoints(points).reduce((sum, value) => sum + value, 0)).toBe(Math.round(total));
      }),
    );
  });
});

describe('bands', () => {
  it('are entered at their edges', () =>
    expect([29.9, 30, 59.9, 60].map((score) => bandOf(score))).toEqual([0, 1, 1, 2]));

  it('are left 5 points under the edge, or at the second reading below it', () => {
    expect(nextBand(57, { score: 61, band: 2 })).toBe(2);
    expect(nextBand(55, { score: 61, band: 2 })).toBe(1);
    expect(nextBand(57, { score: 58, band: 2 })).toBe(1);
    expect(nextBand(28, { score: 31, band: 1 })).toBe(1);
    expect(nextBand(20, { score: 90, band: 2 })).toBe(0);
    expect(nextBand(57, null)).toBe(1);
    expect(nextBand(70, { score: 10, band: 0 })).toBe(2);
  });

  it('combine courses as 0.6 · worst + 0.4 · mean of those with a reading', () => {
    expect(
      combine([
        { score: 90, band: 2 },
        { score: 10, band: 0 },
      ]).score,
    ).toBeCloseTo(74);
    expect(
      combine([
        { score: 50, band: 1 },
        { score: null, band: null },
      ]),
    ).toEqual({ score: 50, band: 1 });
    expect(combine([{ score: null, band: null }])).toEqual({ score: null, band: null });
    expect(combine([{ score: 57, band: 2 }])).toEqual({ score: 57, band: 2 });
  });
});

describe('group readings', () => {
  const member = (more: Partial<Member>): Member => ({
    enrolmentId: 1,
    enrolledDay: 0,
    endedDay: null,
    before: null,
    ...more,
  });
  const days = (activeDays: number[]) => ({ days: { activeDays, efforts: [] } });
  const course = { start: 0, end: 100, breaks: [], feedGaps: [] };

  it('use nothing that happened after their day', () => {
    const stops = member(days([...daily(0, 20), 40]));
    const whole = groupReadings([stops], course, 25, 45, () => DEFAULT_MODEL);
    const cut = groupReadings([member(days(daily(0, 20)))], course, 25, 39, () => DEFAULT_MODEL);
    expect(whole.filter((reading) => reading.day < 40)).toEqual(cut);
    expect(whole.find((reading) => reading.day === 39)).toMatchObject({
      score: 100,
      absence: { hasCome: true, days: 19 },
    });
    expect(whole.find((reading) => reading.day === 40)).toMatchObject({
      score: 0,
      absence: { hasCome: true, days: 0 },
    });
  });

  it('know since when somebody could have come, and nothing of it once they have finished', () => {
    const never = groupReadings([member({ enrolledDay: 10, days: undefined })], course, 20, 20, () => DEFAULT_MODEL);
    expect(never).toMatchObject([{ absence: { hasCome: false, days: 10 } }]);
    const done = member({ ...days([12]), work: { ...NO_WORK, required: 1, doneDays: [12] } });
    expect(groupReadings([done], course, 60, 60, () => DEFAULT_MODEL)).toMatchObject([
      { without: 'finished', absence: null },
    ]);
  });

  it('are made only while somebody is enrolled', () => {
    const readings = groupReadings([member({ enrolledDay: 10, endedDay: 13 })], course, 8, 15, () => DEFAULT_MODEL);
    expect(readings.map((reading) => reading.day)).toEqual([10, 11, 12]);
  });
});
