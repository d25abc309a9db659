import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { CourseDates } from '../drift/readings';
import {
  byDrift,
  byWatch,
  endOf,
  mergeWeeks,
  quietFor,
  rankBy,
  weekEnds,
  type CohortMember,
  type Seen,
} from './cohort';
import { DEFAULT_SETTING } from '../drift/setting';
import { FACTORS } from '../drift/model';

const course = (more: Partial<CourseDates> = {}): CourseDates => ({
  start: 0,
  end: 97,
  breaks: [],
  feedGaps: [],
  ...more,
});

describe('week ends of a course', () => {
  it('are the last day of each whole week', () => {
    expect(weekEnds(course())).toHaveLength(14);
    expect(weekEnds(course({ end: 13 }))).toEqual([
      { day: 6, week: 1 },
      { day: 13, week: 2 },
    ]);
    // A week that has been begun is none.
    expect(weekEnds(course({ end: 19 }))).toHaveLength(2);
  });

  it('are none of a course of six days, and none without a beginning or an end', () => {
    for (const dates of [{ end: 5 }, { start: null }, { end: null }, { start: 10, end: 3 }])
      expect(weekEnds(course(dates))).toEqual([]);
  });

  it('leave out weeks that are mostly a break, and keep their numbers', () => {
    const weeks = (...breaks: [number, number][]) => weekEnds(course({ end: 27, breaks })).map(({ week }) => week);
    expect(weeks([7, 13])).toEqual([1, 3, 4]);
    // Three days of seven are no break week, four are, also of two breaks.
    expect(weeks([7, 9])).toEqual([1, 2, 3, 4]);
    expect(weeks([7, 8], [10, 11])).toEqual([1, 3, 4]);
    expect(weeks([0, 27])).toEqual([]);
  });

  it('are seven days apart or more, within the course, whatever its breaks', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 800 }),
        fc.array(fc.tuple(fc.nat(800), fc.nat(40)), { maxLength: 5 }),
        (end, breaks) => {
          const found = weekEnds(course({ end, breaks: breaks.map(([from, length]) => [from, from + length]) }));
          for (const [index, { day, week }] of found.entries()) {
            expect(day).toBe(7 * week - 1);
            expect(day).toBeLessThanOrEqual(end);
            if (index > 0) expect(day - found[index - 1].day).toBeGreaterThanOrEqual(7);
          }
        },
      ),
    );
  });
});

/** Somebody who was there on some days. */
const member = (activeDays: number[], more: Partial<CohortMember> = {}): CohortMember => ({
  enrolmentId: 7,
  enrolledDay: 0,
  endedDay: null,
  before: null,
  hasWithdrawn: false,
  hasCompleted: false,
  days: activeDays.length === 0 ? undefined : ({ activeDays } as unknown as CohortMember['days']),
  ...more,
});

describe('how it ended for somebody', () => {
  const ended = (one: CohortMember, feedGaps: CourseDates['feedGaps'] = []) => endOf(one, { end: 97, feedGaps }).left;

  it('is leaving from 28 days of silence before the end on, without completing', () => {
    expect(endOf(member([3, 69]), { end: 97, feedGaps: [] })).toEqual({ id: 7, left: true, lastDay: 69 });
    expect(ended(member([3, 70]))).toBe(false);
    expect(ended(member([3, 40], { hasCompleted: true }))).toBe(false);
    // Days after the end are no silence either.
    expect(ended(member([3, 120]))).toBe(false);
  });

  it('is leaving of whoever withdrew, even on the last day, and of whoever never came', () => {
    expect(ended(member([97], { hasWithdrawn: true }))).toBe(true);
    expect(endOf(member([]), { end: 97, feedGaps: [] })).toEqual({ id: 7, left: true, lastDay: null });
    expect(ended(member([], { hasCompleted: true }))).toBe(false);
  });

  it('counts no day on which the feed has a gap, once where gaps overlap', () => {
    expect(ended(member([60]), [[80, 89]])).toBe(false);
    expect(
      ended(member([59]), [
        [80, 89],
        [85, 89],
      ]),
    ).toBe(true);
  });
});

/** Somebody seen at a week's end, of whom every factor has one value. */
const seen = (place: number, value: number | null, more: Partial<Seen> = {}): Seen => ({
  place,
  values: FACTORS.map(() => value),
  byAnybody: FACTORS.map(() => true),
  elapsed: 0.5,
  without: null,
  absence: { hasCome: true, days: 1 },
  ...more,
});
const order = (rule: Parameters<typeof rankBy>[1], ...some: Seen[]) =>
  rankBy([{ day: 6, week: 1, seen: some }], rule)[0].ranked;

describe('a rule’s list', () => {
  it('has whoever is most in need first, and those alike as they come', () => {
    const rule = byDrift(DEFAULT_SETTING);
    expect(order(rule, seen(0, 0.2), seen(1, 0.9), seen(3, 0.5), seen(2, 0.5))).toEqual([1, 2, 3, 0]);
    expect(rule(seen(0, 1))).toBeCloseTo(100, 9);
    expect(rule(seen(0, 0))).toBe(0);
  });

  it('by drift alone has nobody without a reading, for whatever reason', () => {
    const rule = byDrift(DEFAULT_SETTING);
    expect(order(rule, seen(0, null), seen(1, 0.1, { without: 'finished' }), seen(2, 0.1))).toEqual([2]);
  });

  it('as the Watch has it leaves out who is away, never started or has finished', () => {
    const rule = byWatch(DEFAULT_SETTING);
    const gone = (hasCome: boolean, days: number) => ({ absence: { hasCome, days } });
    expect(
      order(
        rule,
        seen(0, 0.9, gone(true, 14)),
        seen(1, 0.9, gone(false, 7)),
        seen(2, 0.9, { without: 'finished' }),
        seen(3, 0.1, gone(true, 13)),
        seen(4, 0.1, gone(false, 6)),
      ),
    ).toEqual([3, 4]);
  });

  it('as the Watch has it puts whoever has no reading after all who have one, the longest gone first', () => {
    const none = (place: number, days: number) => seen(place, null, { absence: { hasCome: true, days } });
    expect(order(byWatch(DEFAULT_SETTING), none(0, 2), none(1, 9), seen(2, 0), none(3, 5))).toEqual([2, 1, 3, 0]);
  });

  it('of the quiet has who never came first, then the longest quiet, from so many days on', () => {
    const of = (place: number, hasCome: boolean, days: number) => seen(place, 0.5, { absence: { hasCome, days } });
    expect(
      order(quietFor(7), of(0, true, 6), of(1, true, 7), of(2, true, 30), of(3, false, 1), of(4, false, 9)),
    ).toEqual([4, 3, 2, 1]);
    expect(order(quietFor(0), of(0, true, 0), of(1, true, 3))).toEqual([1, 0]);
  });
});

describe('weeks of several groups', () => {
  it('are put together by their day, in order, with everybody once', () => {
    const week = (day: number, ...places: number[]) => ({
      day,
      week: (day + 1) / 7,
      seen: places.map((place) => seen(place, 0)),
    });
    const merged = mergeWeeks([[week(6, 0, 1), week(13, 0)], [week(13, 2, 3), week(20, 2)], []]);
    expect(merged.map(({ day, seen: some }) => [day, some.map(({ place }) => place)])).toEqual([
      [6, [0, 1]],
      [13, [0, 2, 3]],
      [20, [2]],
    ]);
    expect(mergeWeeks([])).toEqual([]);
  });
});
