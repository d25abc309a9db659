import { describe, expect, it } from 'vitest';
import { isoFromForeign } from './when';

describe('dates as other systems write them', () => {
  it.each([
    ['2026-11-12T14:05:00Z', 'iso', '2026-11-12T14:05:00Z'],
    ['2026-11-12 14:05', 'day_first', '2026-11-12 14:05'],
    ['14/10/2026 18:30', 'day_first', '2026-10-14T18:30:00'],
    ['10/14/2026 6:30 PM', 'month_first', '2026-10-14T18:30:00'],
    ['12 Nov 2026, 14:05', 'iso', '2026-11-12T14:05:00'],
    ['Thursday, 12 November 2026, 2:05 PM', 'iso', '2026-11-12T14:05:00'],
    ['12. November 2026 14:05 Uhr', 'iso', '2026-11-12T14:05:00'],
    ['12 de noviembre de 2026 14:05', 'iso', '2026-11-12T14:05:00'],
    ['3 décembre 2026', 'iso', '2026-12-03'],
    ['Mar 5, 2026', 'iso', '2026-03-05'],
    ['12:30 am', 'iso', '12:30 am'],
    ['1790607600', 'iso', '2026-09-28T15:00:00.000Z'],
    ['1790607600123', 'iso', '2026-09-28T15:00:00.123Z'],
    ['soon', 'day_first', 'soon'],
    ['', 'iso', ''],
  ] as const)('%s (%s) is %s', (text, order, iso) => {
    expect(isoFromForeign(text, order)).toBe(iso);
  });
});
