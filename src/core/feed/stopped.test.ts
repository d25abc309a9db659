import { describe, expect, it } from 'vitest';
import { isMissed, silences } from './stopped';

describe('a log that has stopped', () => {
  const everyDay = Array.from({ length: 30 }, (_, day) => day);
  const found = (days: readonly number[], today: number) => silences(days, today).map(({ days: range }) => range);

  it('is found on the day after the first whole day without anything, where something came every day', () => {
    expect([29, 30, 31, 40].map((today) => found(everyDay, today))).toEqual([[], [], [[30, 31]], [[30, 40]]]);
  });

  it('rests as long as it usually does', () => {
    // Up to a Friday; it rests on Saturdays and Sundays.
    const weekdays = everyDay.filter((day) => day % 7 < 5 && day <= 25);
    expect([26, 28, 29].map((today) => found(weekdays, today))).toEqual([[], [], [[26, 29]]]);
  });

  it('has a hole where it went on without what was missed, and none where that came', () => {
    const without = (from: number, to: number) => everyDay.filter((day) => day < from || day > to);
    expect(silences(without(20, 24), 29)).toEqual([{ days: [20, 24], isOver: true }]);
    // One hole does not make the next one usual.
    expect(
      found(
        without(20, 21).filter((day) => day !== 26),
        29,
      ),
    ).toEqual([
      [20, 21],
      [26, 26],
    ]);
    expect(found(everyDay, 29)).toEqual([]);
  });

  it('is given a week where little is known of it', () => {
    expect([8, 9].map((today) => found([1], today))).toEqual([[], [[2, 9]]]);
    expect(found([], 9)).toEqual([]);
  });

  it('is missed by its courses where it told most of them, and nothing has taken its place', () => {
    expect(isMissed({ own: 100, othersBefore: 0, othersSince: 0 })).toBe(true);
    expect(isMissed({ own: 20, othersBefore: 80, othersSince: 80 })).toBe(false);
    expect(isMissed({ own: 100, othersBefore: 50, othersSince: 45 })).toBe(true);
    expect(isMissed({ own: 100, othersBefore: 0, othersSince: 90 })).toBe(false);
  });
});
