import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { countedBack, countedDays, mergeRanges } from './counted-days';
import { fading } from './fading';
import { DEFAULT_MODEL } from './model';
import { groupReadings, type Member } from './readings';
import { recentEfforts, silent } from './silent';
import { daily, facts } from './testing';
import type { EnrolmentFacts } from './types';

describe('countedBack', () => {
  it('goes back over as many counted days as asked for', () => {
    expect(countedBack(100, 14, [])).toBe(86);
    expect(countedBack(100, 14, [[90, 94]])).toBe(81);
    expect(countedBack(92, 2, [[90, 94]])).toBe(87);
  });

  it('is the other way round of counting', () => {
    const ranges = fc.array(fc.tuple(fc.integer({ min: 0, max: 100 }), fc.integer({ min: 0, max: 9 })), {
      maxLength: 5,
    });
    fc.assert(
      fc.property(ranges, fc.integer({ min: 0, max: 60 }), (list, count) => {
        const skipped = mergeRanges(list.map(([from, length]) => [from, from + length] as const));
        expect(countedDays(countedBack(100, count, skipped), 100, skipped)).toBe(count);
      }),
    );
  });
});

describe('fading', () => {
  const value = (more: Partial<EnrolmentFacts>) => fading.assess(facts(more), undefined)?.value ?? null;
  // Every second day up to 86, which is 7 of every 14; then fewer.
  const regular = daily(46, 86, 2);

  it('ramps from three tenths fewer active days than usual to nine tenths', () => {
    expect(value({ activeDays: [...regular, ...daily(88, 100, 2)] })).toBe(0);
    // 4 of usually 7: 1 − 4/7 = 0.4286, of 0.3 to 0.9.
    expect(value({ activeDays: [...regular, 88, 90, 92, 94] })).toBeCloseTo((1 - 4 / 7 - 0.3) / 0.6, 10);
    expect(value({ activeDays: regular })).toBe(1);
  });

  it('says the fact and the habit', () => {
    expect(fading.assess(facts({ activeDays: [...regular, 90] }), undefined)?.says).toEqual({
      name: 'fading',
      active: 1,
      of: 14,
      usual: 7,
    });
  });

  it('takes the median of the six weeks before: one strong fortnight is not a habit', () => {
    const burst = [...daily(45, 58), ...daily(60, 72, 4), ...daily(74, 86, 4), ...daily(88, 100, 4)];
    expect(value({ activeDays: burst })).toBe(0);
  });

  it('is null of less than 21 counted days, breaks left out, and of somebody without a habit', () => {
    const young = { enrolledDay: 80, courseStart: 80, activeDays: daily(80, 86) };
    expect(value({ ...young, day: 99 })).toBeNull();
    expect(value({ ...young, day: 100 })).not.toBeNull();
    expect(value({ ...young, day: 100, skipped: [[90, 90]] })).toBeNull();
    expect(value({ activeDays: [50, 64, 78] })).toBeNull();
    expect(value({})).toBeNull();
  });

  it('does not hold a break or a gap in the feed against anybody', () => {
    const rested = { activeDays: [...daily(20, 78, 2), 98, 100], skipped: [[80, 97]] as const };
    expect(value(rested)).toBe(0);
  });
});

describe('silent', () => {
  const of = (own: number, median: number | null) =>
    silent.assess(facts({ efforts: own === 0 ? [] : [[90, own]] }), median);

  it('ramps from half of the group’s median to nothing', () => {
    expect([10, 5, 2.5, 0].map((own) => of(own, 10)?.value)).toEqual([0, 0, 0.5, 1]);
    expect(of(1, 10)?.says).toEqual({ name: 'silent', efforts: 1, of: 28, usual: 10 });
  });

  it('is null where the group hardly talks or works', () => {
    expect(of(0, 2.5)).toBeNull();
    expect(of(0, 3)?.value).toBe(1);
    expect(of(0, null)).toBeNull();
  });

  it('counts 28 counted days, and nothing after the day', () => {
    const efforts = [
      [60, 1],
      [72, 2],
      [73, 4],
      [100, 8],
      [101, 16],
    ] as const;
    expect(recentEfforts(efforts, 100, [])).toBe(12);
    expect(recentEfforts(efforts, 100, [[73, 80]])).toBe(8 + 2);
    expect(recentEfforts([], 100, [])).toBe(0);
  });
});

it('a group’s median is of those enrolled on the day, and enters every reading', () => {
  const member = (enrolmentId: number, events: number, enrolledDay = 0): Member => ({
    enrolmentId,
    enrolledDay,
    endedDay: null,
    days: { activeDays: daily(60, 100), efforts: [[95, events]] },
    before: null,
  });
  const course = { start: 0, end: 120, breaks: [], feedGaps: [] };
  const members = [member(1, 0), member(2, 10), member(3, 12), member(4, 900, 101)];
  const readings = groupReadings(members, course, 100, 101, DEFAULT_MODEL);
  const silentOf = (id: number, day: number) =>
    readings.find((one) => one.enrolmentId === id && one.day === day)?.reasons.find((one) => one.factor === 'silent');
  expect(silentOf(1, 100)).toMatchObject({ value: 1 });
  expect(silentOf(2, 100)?.says).toMatchObject({ usual: 10 });
  expect(silentOf(2, 101)?.says).toMatchObject({ usual: 11 });
});
