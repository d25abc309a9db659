import { describe, expect, it } from 'vitest';
import { dayFromDate } from '../time/zone';
import { byWeek } from './weeks';

const ZONE = 'Europe/Dublin';
const visit = (start: string, minutes = 10, events = 3) => ({ start: Date.parse(start), ms: minutes * 60_000, events });
const at = (text: string) => Date.parse(text);

describe('byWeek', () => {
  it('sums visits by the week they start in, empty weeks between and after them included', () => {
    const visits = [
      visit('2026-11-03T10:00:00Z'),
      visit('2026-11-03T20:00:00Z'),
      visit('2026-11-05T10:00:00Z', 5, 1),
      visit('2026-11-17T10:00:00Z'),
    ];
    const weeks = byWeek(visits, at('2026-11-24T09:00:00Z'), ZONE);
    expect(weeks.map((week) => [week.monday, week.visits.length, week.activeDays, week.events, week.ms])).toEqual(
      [
        ['2026-11-02', 3, 2, 7, 1_500_000],
        ['2026-11-09', 0, 0, 0, 0],
        ['2026-11-16', 1, 1, 3, 600_000],
        ['2026-11-23', 0, 0, 0, 0],
      ].map(([monday, ...rest]) => [dayFromDate(String(monday)), ...rest]),
    );
  });

  it('goes by the clock of the zone, where a week has an hour more or less', () => {
    // Sunday 23:30 by a summer clock and by a winter one: the clocks went back on 25 October.
    const weeks = byWeek([visit('2026-10-18T22:30:00Z'), visit('2026-10-25T23:30:00Z')], 0, ZONE);
    expect(weeks.map(({ monday, visits }) => [monday, visits.length])).toEqual([
      [dayFromDate('2026-10-12'), 1],
      [dayFromDate('2026-10-19'), 1],
    ]);
    // Half an hour on, it is Monday.
    expect(byWeek([visit('2026-10-18T23:00:00Z')], 0, ZONE)[0].monday).toBe(dayFromDate('2026-10-19'));
  });

  it('leaves out a silence of more than half a year, so that one wrong clock makes no thousand weeks', () => {
    const weeks = byWeek(
      [visit('1991-01-01T10:00:00Z'), visit('2026-11-03T10:00:00Z')],
      at('2026-11-24T09:00:00Z'),
      ZONE,
    );
    expect(weeks.map(({ visits }) => visits.length)).toEqual([1, 1, 0, 0, 0]);
  });

  it('has none without a visit, and one where all is in one', () => {
    expect(byWeek([], at('2026-11-24T09:00:00Z'), ZONE)).toEqual([]);
    expect(byWeek([visit('2026-11-24T09:00:00Z')], at('2026-11-24T09:00:00Z'), ZONE)).toHaveLength(1);
  });
});
