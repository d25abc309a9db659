import { describe, expect, it } from 'vitest';
import { HOUR } from '../time/zone';
import { fillOf, findGaps, isFilled, isLate, usualAt } from './rhythm';

const zone = 'Europe/Dublin';
const hourOf = (iso: string) => Date.parse(iso) / HOUR;

/** Ten events an hour from 08:00 to 20:00 by the clock, silent at night. */
function busy(
  from: string,
  to: string,
  without: (hour: number) => boolean = () => false,
  shift = 0,
): Map<number, number> {
  const counts = new Map<number, number>();
  for (let hour = hourOf(from); hour < hourOf(to); hour += 1) {
    const clock = (hour + shift) % 24;
    if (clock >= 8 && clock < 20 && !without(hour)) counts.set(hour, 10);
  }
  return counts;
}

const between = (a: string, b: string) => (hour: number) => hour >= hourOf(a) && hour < hourOf(b);

describe('usualAt', () => {
  const counts = busy('2026-11-01T00:00:00Z', '2026-11-24T00:00:00Z');
  const first = Math.min(...counts.keys());
  it('is the median of the same hour in the weeks before', () => {
    expect(usualAt(counts, hourOf('2026-11-24T09:00:00Z'), first, zone)).toMatchObject({ events: 10, share: 1 });
    expect(usualAt(counts, hourOf('2026-11-24T03:00:00Z'), first, zone)).toMatchObject({ events: 0, share: 0 });
  });
  it('is not known of a source that began a week ago', () => {
    expect(usualAt(counts, hourOf('2026-11-09T09:00:00Z'), first, zone)).toBeNull();
  });
  it('is not misled by one week that was silent', () => {
    const holed = busy(
      '2026-10-27T00:00:00Z',
      '2026-11-24T00:00:00Z',
      between('2026-11-10T00:00:00Z', '2026-11-17T00:00:00Z'),
    );
    expect(usualAt(holed, hourOf('2026-11-24T09:00:00Z'), Math.min(...holed.keys()), zone)).toMatchObject({
      events: 10,
      share: 0.75,
    });
  });
  it('goes by the clock, also over the day it changes', () => {
    // By summer time 08:00 is 07:00 UTC; the clocks go back on 25 October.
    const summer = busy('2026-10-01T00:00:00Z', '2026-10-25T00:00:00Z', undefined, 1);
    const start = Math.min(...summer.keys());
    expect(usualAt(summer, hourOf('2026-10-27T08:00:00Z'), start, zone)?.events).toBe(10);
    expect(usualAt(summer, hourOf('2026-10-27T07:00:00Z'), start, zone)?.events).toBe(0);
  });
});

describe('findGaps', () => {
  const look = (counts: Map<number, number>) =>
    findGaps(counts, hourOf('2026-11-16T00:00:00Z'), hourOf('2026-11-24T09:00:00Z'), zone);
  it('finds none in a source that never stops, nor in its nights', () => {
    expect(look(busy('2026-11-01T00:00:00Z', '2026-11-24T09:00:00Z'))).toEqual([]);
  });
  it('finds two silent days as one gap, from the first hour missed to the last', () => {
    const counts = busy(
      '2026-11-01T00:00:00Z',
      '2026-11-24T09:00:00Z',
      between('2026-11-18T00:00:00Z', '2026-11-20T00:00:00Z'),
    );
    expect(look(counts)).toEqual([
      { from: hourOf('2026-11-18T08:00:00Z'), to: hourOf('2026-11-19T20:00:00Z'), expected: 240 },
    ]);
  });
  it('finds nothing in a silence of two hours, or with little to expect', () => {
    expect(
      look(
        busy('2026-11-01T00:00:00Z', '2026-11-24T09:00:00Z', between('2026-11-18T10:00:00Z', '2026-11-18T12:00:00Z')),
      ),
    ).toEqual([]);
    const faint = new Map(
      [
        ...busy(
          '2026-11-01T00:00:00Z',
          '2026-11-24T09:00:00Z',
          between('2026-11-18T00:00:00Z', '2026-11-19T00:00:00Z'),
        ),
      ].map(([hour]) => [hour, 1]),
    );
    expect(look(faint)).toEqual([]);
  });
  it('finds none in nights on which now and then somebody is there', () => {
    const counts = busy('2026-10-20T00:00:00Z', '2026-11-24T09:00:00Z');
    // A visit of 40 events at two every second night.
    for (let night = hourOf('2026-10-20T02:00:00Z'); night < hourOf('2026-11-16T00:00:00Z'); night += 48) {
      for (const hour of [0, 1, 2, 3]) counts.set(night + hour, 40);
    }
    expect(look(counts)).toEqual([]);
  });
  it('finds one that goes on to the present', () => {
    const counts = busy('2026-11-01T00:00:00Z', '2026-11-23T12:00:00Z');
    expect(look(counts)).toMatchObject([{ from: hourOf('2026-11-23T12:00:00Z'), to: hourOf('2026-11-24T09:00:00Z') }]);
  });
});

describe('a gap that fills', () => {
  const gap = { from: hourOf('2026-11-18T08:00:00Z'), to: hourOf('2026-11-18T20:00:00Z') };
  it('is filled by half of what usually comes', () => {
    const counts = busy(
      '2026-11-01T00:00:00Z',
      '2026-11-24T00:00:00Z',
      between('2026-11-18T00:00:00Z', '2026-11-19T00:00:00Z'),
    );
    expect(isFilled(fillOf(counts, gap, zone))).toBe(false);
    counts.set(gap.from, 59);
    expect(isFilled(fillOf(counts, gap, zone))).toBe(false);
    counts.set(gap.from, 60);
    expect(fillOf(counts, gap, zone)).toEqual({ came: 60, expected: 120 });
    expect(isFilled(fillOf(counts, gap, zone))).toBe(true);
  });
});

describe('isLate', () => {
  const now = Date.parse('2026-11-24T09:40:00Z');
  it('is so after a quarter of an hour of silence at a busy hour', () => {
    expect(isLate(60, now - 16 * 60_000, now)).toBe(true);
    expect(isLate(60, now - 14 * 60_000, now)).toBe(false);
  });
  it('waits for three usual pauses of a slower one', () => {
    expect(isLate(12, now - 14 * 60_000, now)).toBe(false);
    expect(isLate(12, now - 16 * 60_000, now)).toBe(true);
  });
  it('is never so where little or nothing usually comes, or nothing is known', () => {
    expect(isLate(11, now - 12 * HOUR, now)).toBe(false);
    expect(isLate(0, now - 12 * HOUR, now)).toBe(false);
    expect(isLate(null, now - 12 * HOUR, now)).toBe(false);
  });
});
