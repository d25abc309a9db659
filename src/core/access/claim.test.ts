import { describe, expect, it } from 'vitest';
import { dayFromDate } from '../time/zone';
import { claimVerdict } from './claim';

const at = (iso: string) => Date.parse(iso);
const visits = [
  { first: at('2026-11-10T19:00:00Z'), last: at('2026-11-10T19:29:00Z'), ms: 30 * 60_000 },
  { first: at('2026-11-12T21:00:00Z'), last: at('2026-11-12T21:40:00Z'), ms: 40 * 60_000 },
];
const day = (text: string) => dayFromDate(text)!;

describe('the verdict of a claim check', () => {
  it('says visits, time, items, the last of them and what was handed in', () => {
    expect(claimVerdict({ visits, items: 3, handIns: [], sessions: [], gaps: [] }, 'Europe/Dublin')).toEqual({
      settled: true,
      says: '2 visits, about 1 h 10 min, 3 items, last on Thu 12 Nov 21:40; nothing handed in.',
    });
    expect(
      claimVerdict({ visits: visits.slice(1), items: 0, handIns: ['Quiz'], sessions: [], gaps: [] }, 'Europe/Dublin')
        .says,
    ).toBe('1 visit, about 40 min, last on Thu 12 Nov 21:40; handed in Quiz.');
  });

  it('is plain about nothing', () => {
    expect(claimVerdict({ visits: [], items: 0, handIns: [], sessions: [], gaps: [] }, 'UTC').says).toBe(
      'No visit; nothing handed in.',
    );
  });

  it('cannot be settled while the log has a gap, and says what there is', () => {
    const gaps = [[day('2026-11-03'), day('2026-11-05')]] as const;
    expect(claimVerdict({ visits: [], items: 0, handIns: [], sessions: [], gaps }, 'UTC')).toEqual({
      settled: false,
      says: 'Cannot be settled: the log is incomplete from Tue 3 Nov to Thu 5 Nov. What there is: no visit; nothing handed in.',
    });
    const one = [[day('2026-11-03'), day('2026-11-03')]] as const;
    expect(claimVerdict({ visits: [], items: 0, handIns: [], sessions: [], gaps: one }, 'UTC').says).toContain(
      'incomplete on Tue 3 Nov.',
    );
  });
});
