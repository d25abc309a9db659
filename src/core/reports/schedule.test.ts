import { describe, expect, it } from 'vitest';
import { nextSending, sayRhythm, type Rhythm } from './schedule';

const ZONE = 'Europe/Dublin';
const next = (rhythm: Rhythm, after: string) => new Date(nextSending(rhythm, Date.parse(after), ZONE)).toISOString();

describe('the next sending', () => {
  const mondays: Rhythm = { by: 'week', on: [0], minute: 7 * 60 };

  it('is the next of its days, and not the moment itself', () => {
    expect(next(mondays, '2026-11-24T09:00:00Z')).toBe('2026-11-30T07:00:00.000Z');
    expect(next(mondays, '2026-11-30T06:59:59Z')).toBe('2026-11-30T07:00:00.000Z');
    expect(next(mondays, '2026-11-30T07:00:00Z')).toBe('2026-12-07T07:00:00.000Z');
    expect(next({ ...mondays, on: [0, 3] }, '2026-11-24T09:00:00Z')).toBe('2026-11-26T07:00:00.000Z');
  });

  it('stays at its hour when the clocks change', () => {
    expect(next(mondays, '2026-10-20T09:00:00Z')).toBe('2026-10-26T07:00:00.000Z');
    expect(next(mondays, '2026-10-13T09:00:00Z')).toBe('2026-10-19T06:00:00.000Z');
  });

  it('comes once on the day on which its hour comes twice or not at all', () => {
    const sundays: Rhythm = { by: 'week', on: [6], minute: 90 };
    const first = next(sundays, '2026-10-24T09:00:00Z');
    expect(first).toBe('2026-10-25T00:30:00.000Z');
    expect(next(sundays, first)).toBe('2026-11-01T01:30:00.000Z');
    // 01:30 is passed over on 28 March 2027.
    const passed = next(sundays, '2027-03-27T09:00:00Z');
    expect(passed).toBe('2027-03-28T01:30:00.000Z');
    expect(next(sundays, passed)).toBe('2027-04-04T00:30:00.000Z');
  });

  it('is on the last day of a month that is too short', () => {
    const monthly: Rhythm = { by: 'month', on: [31], minute: 0 };
    expect(next(monthly, '2027-02-01T09:00:00Z')).toBe('2027-02-28T00:00:00.000Z');
    expect(next(monthly, '2027-02-28T09:00:00Z')).toBe('2027-03-30T23:00:00.000Z');
    expect(next({ ...monthly, on: [1, 15] }, '2026-11-02T09:00:00Z')).toBe('2026-11-15T00:00:00.000Z');
  });
});

describe('a rhythm in words', () => {
  it('names its days and hour', () => {
    expect(sayRhythm({ by: 'week', on: [3, 0], minute: 420 })).toBe('Mondays and Thursdays at 07:00');
    expect(sayRhythm({ by: 'week', on: [0, 1, 2, 3, 4, 5, 6], minute: 1110 })).toBe('every day at 18:30');
    expect(sayRhythm({ by: 'month', on: [1, 22], minute: 5 })).toBe('the 1st and 22nd of each month at 00:05');
  });
});
