import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { bandOf, combine, nextBand } from './bands';
import { countedDays, mergeRanges } from './counted-days';
import { quantile } from '../statistics/quantile';
import { expectedGap, groupGap, ownGaps } from './expected-gap';
import { DEFAULT_MODEL, FACTORS, elapsedShare, reasonTitle, sayNotCounted, weightAt, weightOf } from './model';
import { byNeed, urgency } from './order';
import { quiet } from './quiet';
import { ramp } from './ramp';
import { groupReadings, type Member } from './readings';
import { assess, judgedByAnybody, readDrift, wholePoints } from './score';
import { daily, facts } from './testing';
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
  it('is null in the first two days after enrolment or course start, the later', () => {
    expect(quiet.assess(facts({ day: 11, enrolledDay: 10 }), 2)).toBeNull();
    expect(quiet.assess(facts({ day: 51, enrolledDay: 0, courseStart: 50 }), 2)).toBeNull();
    expect(quiet.assess(facts({ day: 12, enrolledDay: 10 }), 2)).not.toBeNull();
  });

  it('compares the quiet with the usual gap', () => {
    const regular = facts({ activeDays: daily(0, 90, 2) });
    expect(quiet.assess(regular, 2)).toMatchObject({
      value: 1,
      says: { name: 'quiet', days: 10, counted: 10, usual: 2 },
    });
    const weekly = facts({ activeDays: daily(0, 91, 7) });
    expect(quiet.assess(weekly, 7)?.value).toBe(0);
  });

  it('does not count a break, and says so', () => {
    const rested = facts({ activeDays: daily(0, 90), skipped: [[91, 98]] });
    expect(quiet.assess(rested, 1)).toMatchObject({
      says: { name: 'quiet', days: 10, counted: 2, usual: 1 },
    });
  });

  it('ramps up for somebody never seen', () => {
    const waited = (days: number) => quiet.assess(facts({ day: 50 + days, enrolledDay: 50 }), 2)?.value;
    expect([2, 6, 10, 30].map(waited)).toEqual([0, 0.5, 1, 1]);
  });
});

describe('drift', () => {
  const fixed = (name: string, value: number | null, weight = quiet.weight): Factor => ({
    ...quiet,
    name,
    weight,
    assess: () => (value === null ? null : { value, says: { name: 'long_quiet', days: 1, atLeast: 0 } }),
  });
  const of = (...factors: Factor[]): Model => ({ ...DEFAULT_MODEL, factors });
  /** @param beside what others of the group could be judged by */
  const read = (known: EnrolmentFacts, usual: number, model = DEFAULT_MODEL, beside = model) => {
    const [own, others] = [model, beside].map((one) => assess(known, { quiet: usual, silent: null, falling: [] }, one));
    return readDrift(known, own, judgedByAnybody([own, others]));
  };
  const ten = { early: 10, late: 10 };
  const twenty = { early: 20, late: 20 };

  it('is the weighted mean, and its points add up to it exactly', () => {
    const known = facts({ day: 0, activeDays: [0] });
    const factors = [fixed('quiet', 1), fixed('fading', 0.5, ten), fixed('sessions', 0, twenty)];
    const reading = read(known, 1, of(...factors));
    expect(reading.score).toBeCloseTo((100 * (30 + 5)) / 60);
    expect(reading.reasons.map((reason) => reason.factor)).toEqual(['quiet', 'fading', 'sessions']);
    expect(reading.reasons.reduce((sum, reason) => sum + reason.points, 0)).toBe(reading.score);
    // Another model weighs the same factors otherwise.
    const weights = { quiet: { early: 0, late: 0 }, fading: { early: 20, late: 20 } };
    expect(read(known, 1, { ...of(...factors), weights }).score).toBeCloseTo((100 * 10) / 40);
  });

  it('has no reading when less than 40 % of the weight can be judged', () => {
    const early = facts({ day: 0, activeDays: [0] });
    const factors = [
      fixed('quiet', 1),
      fixed('fading', null, ten),
      fixed('sessions', null, twenty),
      fixed('owed', null, twenty),
    ];
    const another = of(fixed('fading', 0, ten), fixed('sessions', 0, twenty), fixed('owed', 0, twenty));
    expect(read(early, 1, of(...factors), another)).toMatchObject({
      score: null,
      notCounted: ['fading', 'sessions', 'owed'],
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

  it('is lifted to its floors by a reason of its own', () => {
    const seldom = facts({ activeDays: [0, 14, 28, 42, 56, 70, 79] });
    const reading = read(seldom, 14);
    expect(reading.score).toBe(65);
    expect(reading.reasons.map((reason) => reason.factor)).toContain('long_quiet');
    expect(reading.reasons.reduce((sum, reason) => sum + reason.points, 0)).toBeCloseTo(65, 10);
    const never = read(facts({ day: 60, enrolledDay: 50 }), 1, of(fixed('quiet', 0.1)));
    expect(never).toMatchObject({ score: 70 });
  });

  it('weighs by the elapsed share of the course', () => {
    expect(weightAt(weightOf(DEFAULT_MODEL, quiet), 0.5)).toBe(25);
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
      'Marks',
      'Falling marks',
      'No hand-in',
      'Late work',
      'Quiet',
      'Fading',
      'Silent',
      'Sessions',
    ]);
    expect(reasonTitle('long_quiet')).toBe('Long quiet');
    expect(sayNotCounted('fading')).toBe('fading (too little history)');
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
    expect([39.9, 40, 64.9, 65].map((score) => bandOf(score))).toEqual([0, 1, 1, 2]));

  it('are left 5 points under the edge, or at the second reading below it', () => {
    expect(nextBand(62, { score: 66, band: 2 })).toBe(2);
    expect(nextBand(60, { score: 66, band: 2 })).toBe(1);
    expect(nextBand(62, { score: 63, band: 2 })).toBe(1);
    expect(nextBand(38, { score: 41, band: 1 })).toBe(1);
    expect(nextBand(20, { score: 90, band: 2 })).toBe(0);
    expect(nextBand(62, null)).toBe(1);
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
    expect(combine([{ score: 62, band: 2 }])).toEqual({ score: 62, band: 2 });
  });
});

describe('the order on the Watch', () => {
  const one = (band: 0 | 1 | 2 | null, score: number | null, weekAgo: number | null = null, recentContacts = 0) => ({
    band,
    score,
    weekAgo,
    recentContacts,
  });

  it('is by band, then drift with half its rise, less recent contacts; no reading last', () => {
    const list = [one(null, null), one(0, 39), one(2, 70), one(2, 75, null, 1), one(2, 69, 60), one(1, 64)];
    expect([...list].sort(byNeed)).toEqual([list[4], list[2], list[3], list[5], list[1], list[0]]);
  });

  it('does not lower anybody for a fall', () => expect(urgency(one(1, 50, 80))).toBe(50));
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
    const whole = groupReadings([stops], course, 25, 45, DEFAULT_MODEL);
    const cut = groupReadings([member(days(daily(0, 20)))], course, 25, 39, DEFAULT_MODEL);
    expect(whole.filter((reading) => reading.day < 40)).toEqual(cut);
    expect(whole.find((reading) => reading.day === 39)?.band).toBe(2);
    expect(whole.find((reading) => reading.day === 40)?.band).toBe(0);
  });

  it('are made only while somebody is enrolled', () => {
    const readings = groupReadings([member({ enrolledDay: 10, endedDay: 13 })], course, 8, 15, DEFAULT_MODEL);
    expect(readings.map((reading) => reading.day)).toEqual([10, 11, 12]);
  });
});
