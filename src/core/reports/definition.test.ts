import { describe, expect, it } from 'vitest';
import { periodOfReport, type ReportPeriod } from './definition';

const ZONE = 'Europe/Dublin';
const iso = (period: ReportPeriod, now: string) => {
  const { from, to } = periodOfReport(period, Date.parse(now), ZONE);
  return [from, to].map((at) => new Date(at).toISOString());
};

describe('a period of a report', () => {
  it('moves with the day on which it is made', () => {
    expect(iso('7-days', '2026-11-24T09:00:00Z')).toEqual(['2026-11-18T00:00:00.000Z', '2026-11-25T00:00:00.000Z']);
    expect(iso('last-week', '2026-11-24T09:00:00Z')).toEqual(['2026-11-16T00:00:00.000Z', '2026-11-23T00:00:00.000Z']);
    expect(iso('last-month', '2026-11-24T09:00:00Z')).toEqual(['2026-09-30T23:00:00.000Z', '2026-11-01T00:00:00.000Z']);
    expect(iso('this-month', '2026-12-31T23:30:00Z')).toEqual(['2026-12-01T00:00:00.000Z', '2027-01-01T00:00:00.000Z']);
  });

  it('has a week of 169 hours where the clock goes back in it', () => {
    const [from, to] = iso('last-week', '2026-10-27T09:00:00Z');
    expect([from, to]).toEqual(['2026-10-18T23:00:00.000Z', '2026-10-26T00:00:00.000Z']);
    expect((Date.parse(to) - Date.parse(from)) / 3_600_000).toBe(169);
  });
});
