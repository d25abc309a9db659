import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { DAY, HOUR, dateOfDay, dayFromDate, dayOf, fromWallClock, isTimeZone, startOfDay, weekday } from './zone';

const at = (iso: string) => Date.parse(iso);

describe('days in a zone', () => {
  it('begin at local midnight', () => {
    expect(dateOfDay(dayOf(at('2026-07-01T22:59:59Z'), 'Europe/Dublin'))).toBe('2026-07-01');
    expect(dateOfDay(dayOf(at('2026-07-01T23:00:00Z'), 'Europe/Dublin'))).toBe('2026-07-02');
    expect(dateOfDay(dayOf(at('2026-01-01T02:00:00Z'), 'America/New_York'))).toBe('2025-12-31');
  });

  it('have 23 and 25 hours when the clocks change', () => {
    const spring = dayFromDate('2026-03-29')!;
    const autumn = dayFromDate('2026-10-25')!;
    const length = (day: number) => startOfDay(day + 1, 'Europe/Dublin') - startOfDay(day, 'Europe/Dublin');
    expect(length(spring)).toBe(23 * HOUR);
    expect(length(autumn)).toBe(25 * HOUR);
    expect(length(autumn + 1)).toBe(DAY);
  });

  it('start in zones where midnight itself is skipped', () => {
    // Clocks in Beirut went from 00:00 to 01:00 on 29 March 2026.
    const day = dayFromDate('2026-03-29')!;
    expect(dayOf(startOfDay(day, 'Asia/Beirut') + HOUR, 'Asia/Beirut')).toBe(day);
  });

  it('startOfDay and dayOf agree for any instant and zone', () => {
    const zones = fc.constantFrom('Europe/Dublin', 'America/St_Johns', 'Australia/Lord_Howe', 'Asia/Kathmandu', 'UTC');
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 4e12 }), zones, (instant, zone) => {
        const day = dayOf(instant, zone);
        expect(startOfDay(day, zone)).toBeLessThanOrEqual(instant);
        expect(startOfDay(day + 1, zone)).toBeGreaterThan(instant);
      }),
    );
  });
});

describe('wall-clock times', () => {
  it('that occur twice are the first of the two', () => {
    expect(fromWallClock(Date.UTC(2026, 9, 25, 1, 30), 'Europe/Dublin')).toBe(at('2026-10-25T00:30:00Z'));
  });

  it('that do not occur are read with the offset before the change', () => {
    expect(fromWallClock(Date.UTC(2026, 2, 29, 1, 30), 'Europe/Dublin')).toBe(at('2026-03-29T01:30:00Z'));
  });
});

describe('dates', () => {
  it.each(['2026-02-30', '2026-13-01', '2026-00-10', '26-01-01', '2026-1-1', '', 'today'])('%j is none', (text) => {
    expect(dayFromDate(text)).toBeNull();
  });

  it('know leap days and weekdays', () => {
    expect(dayFromDate('2028-02-29')).not.toBeNull();
    expect(dayFromDate('2027-02-29')).toBeNull();
    expect(weekday(dayFromDate('2026-11-23')!)).toBe(0);
    expect(weekday(dayFromDate('1969-12-28')!)).toBe(6);
  });
});

it('tells time zones from other words', () => {
  expect(isTimeZone('Europe/Dublin')).toBe(true);
  expect(isTimeZone('Nowhere/Here')).toBe(false);
  expect(isTimeZone('+02:00')).toBe(false);
});
