import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { HOUR, MINUTE } from '../time/zone';
import { USUAL_WORKING_HOURS, readWorkingHours, sayWorkingHours, studyHours, workingShare } from './when';

const zone = 'Europe/Dublin';
const visit = (iso: string, minutes: number) => ({ start: Date.parse(iso), ms: minutes * MINUTE });

describe('studyHours', () => {
  it('spreads a visit over its hours and over midnight', () => {
    // Tue 24 Nov 23:50 to Wed 00:20.
    const grid = studyHours([visit('2026-11-24T23:50:00Z', 30)], zone);
    expect(grid[1][23]).toBe(10 * MINUTE);
    expect(grid[2][0]).toBe(20 * MINUTE);
  });

  it('goes by the clock of the zone', () => {
    expect(studyHours([visit('2026-07-06T08:00:00Z', 5)], zone)[0][9]).toBe(5 * MINUTE);
  });

  it('holds the hour that the clock has twice, twice', () => {
    // Sun 25 Oct: 00:30 UTC is 01:30 by summer time, and 01:30 once more an hour later.
    const grid = studyHours([visit('2026-10-25T00:00:00Z', 120)], zone);
    expect(grid[6][1]).toBe(2 * HOUR);
  });

  it('loses no time', () => {
    const visits = fc.array(
      fc.record({
        start: fc.integer({ min: 1_790_000_000_000, max: 1_800_000_000_000 }),
        ms: fc.integer({ min: 1, max: 5 * HOUR }),
      }),
      { maxLength: 8 },
    );
    fc.assert(
      fc.property(visits, (list) => {
        const sum = studyHours(list, zone)
          .flat()
          .reduce((a, b) => a + b, 0);
        expect(sum).toBe(list.reduce((total, { ms }) => total + ms, 0));
      }),
    );
  });
});

describe('workingShare', () => {
  const share = (...visits: ReturnType<typeof visit>[]) => workingShare(visits, USUAL_WORKING_HOURS, zone);
  it('is of the time inside working hours', () => {
    expect(share(visit('2026-11-24T07:30:00Z', 60))).toBe(0.5);
    expect(share(visit('2026-11-24T16:45:00Z', 60))).toBe(0.25);
    expect(share(visit('2026-11-22T10:00:00Z', 60))).toBe(0);
    expect(share(visit('2026-11-24T10:00:00Z', 60), visit('2026-11-24T21:00:00Z', 180))).toBe(0.25);
  });
  it('goes by the clock on the day it changes', () => {
    const sunday = { days: [6], from: 8 * 60, to: 17 * 60 };
    expect(workingShare([visit('2026-10-25T07:30:00Z', 60)], sunday, zone)).toBe(0.5);
    expect(workingShare([visit('2026-03-29T06:30:00Z', 60)], sunday, zone)).toBe(0.5);
  });
  it('is nothing without a visit', () => expect(share()).toBeNull());
});

describe('working hours', () => {
  it.each([
    ['mon-fri 08:00-17:00', 'Mon to Fri, 08:00 to 17:00'],
    ['SAT 09:30-24:00', 'Sat, 09:30 to 24:00'],
  ])('%s', (text, says) => expect(sayWorkingHours(readWorkingHours(text)!)).toBe(says));
  it.each(['', 'fri-mon 08:00-17:00', 'mon 17:00-08:00', 'mon 08:00-25:00', 'mon 08:70-10:00', 'moon 08:00-09:00'])(
    'refuses %j',
    (text) => expect(readWorkingHours(text)).toBeNull(),
  );
});
