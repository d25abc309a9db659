import { describe, expect, it } from 'vitest';
import { wilson } from '../statistics/wilson';
import { DAY, HOUR } from '../time/zone';
import { Signs, howContactsWent, openLike, type JudgedContact, type PersonOnDay } from './does-it-work';

const ZONE = 'UTC';
const at = (day: number, hour = 0) => day * DAY + hour * HOUR;

describe('Signs', () => {
  const signs = new Signs([at(1, 9), at(5, 9), at(13, 8)], [at(1, 12), at(5, 17), at(13, 9)]);

  it('finds the last before an instant and the first after it, within a day too', () => {
    expect(new Signs([], []).lastBefore(at(3))).toBeNull();
    expect(new Signs([], []).firstAfter(at(3))).toBeNull();
    expect(signs.lastBefore(at(1, 8))).toBeNull();
    expect(signs.lastBefore(at(1, 10))).toBe(at(1, 10));
    expect(signs.lastBefore(at(4))).toBe(at(1, 12));
    expect(signs.firstAfter(at(1, 8))).toBe(at(1, 9));
    expect(signs.firstAfter(at(5, 10))).toBe(at(5, 10) + 1);
    expect(signs.firstAfter(at(5, 17))).toBe(at(13, 8));
    expect(signs.firstAfter(at(13, 9))).toBeNull();
  });

  it('says that they came back within 7 days after a quiet of at least 3', () => {
    expect(signs.cameBack(at(4, 10), ZONE)).toBe(at(5, 9));
    expect(signs.cameBack(at(3, 10), ZONE)).toBeNull();
    expect(signs.cameBack(at(6, 7), ZONE)).toBeNull();
    expect(signs.cameBack(at(8, 8), ZONE)).toBe(at(13, 8));
    expect(signs.cameBack(at(0, 8), ZONE)).toBe(at(1, 9));
  });
});

describe('openLike', () => {
  const standing = (learner: number, drift: number, quiet: number | null): PersonOnDay => ({ learner, drift, quiet });
  const like = openLike([
    standing(1, 50, 5),
    standing(2, 55, 7),
    standing(3, 45, 3),
    standing(4, 55.1, 5),
    standing(5, 50, 8),
    standing(6, 50, null),
    standing(7, 44.9, 5),
  ]);

  it('is whoever is within 5 points and 2 days, both included, and not oneself', () => {
    expect(like(standing(1, 50, 5)).sort()).toEqual([2, 3]);
  });

  it('holds who was never there against who was never there alone', () => {
    expect(like(standing(9, 52, null))).toEqual([6]);
    expect(like(standing(6, 50, null))).toEqual([]);
  });
});

describe('howContactsWent', () => {
  const contact = (learner: number, returned: boolean, likeRate: number | null, more = {}): JudgedContact => ({
    of: 'call',
    learner,
    answered: false,
    returned,
    unanswered: !returned,
    likeRate,
    daysSinceCrossing: null,
    ...more,
  });

  it('counts, with intervals, and holds those with like alone against their like', () => {
    const [call] = howContactsWent([
      contact(1, true, 0.5),
      contact(2, false, 0),
      contact(3, true, 0.25),
      contact(4, true, null, { answered: true, daysSinceCrossing: 4 }),
      contact(4, false, 0.25, { daysSinceCrossing: 2 }),
    ]);
    expect(call).toMatchObject({ of: 'call', contacts: 5, answered: 1, returned: 3, unanswered: 2, rate: 0.6 });
    expect(call).toMatchObject({ like: { contacts: 4, rate: 0.25 }, withoutLike: 1, daysToContact: 3 });
    expect(call.interval).toEqual(wilson(3, 5));
    expect(call.difference.value).toBeCloseTo(0.25, 10);
    expect(call.difference.low!).toBeLessThan(0.25);
    expect(call.difference.high!).toBeGreaterThan(0.25);
    // The same again says the same.
    expect(howContactsWent([contact(1, true, 0.5), contact(2, false, 0)])).toEqual(
      howContactsWent([contact(1, true, 0.5), contact(2, false, 0)]),
    );
  });

  it('says nothing of a difference where nobody has like', () => {
    const [one] = howContactsWent([contact(1, true, null)]);
    expect(one).toMatchObject({ like: { contacts: 0, rate: null }, withoutLike: 1, daysToContact: null });
    expect(one.difference).toEqual({ value: null, low: null, high: null });
    expect(howContactsWent([])).toEqual([]);
  });

  it('draws learners with all of their contacts: many of one person are no surer', () => {
    const many = howContactsWent(Array.from({ length: 40 }, (_, index) => contact(index % 2, index % 2 === 0, 0)))[0];
    expect([many.difference.low, many.difference.value, many.difference.high]).toEqual([0, 0.5, 1]);
  });
});

describe('wilson', () => {
  it('is the interval of a share', () => {
    const { low, high } = wilson(8, 10);
    expect(low).toBeCloseTo(0.4902, 4);
    expect(high).toBeCloseTo(0.9433, 4);
    expect(wilson(0, 10)).toMatchObject({ low: 0, high: expect.closeTo(0.2775, 4) });
    expect(wilson(10, 10).high).toBeCloseTo(1, 10);
    expect(wilson(0, 0)).toEqual({ low: null, high: null });
  });
});
