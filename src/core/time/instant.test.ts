import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { parseInstant } from './instant';

describe('parseInstant', () => {
  it.each([
    ['2026-11-24T09:10:00Z', '2026-11-24T09:10:00Z'],
    ['2026-11-24T09:10:00.250Z', '2026-11-24T09:10:00.250Z'],
    ['2026-11-24 09:10:00Z', '2026-11-24T09:10:00Z'],
    ['2026-11-24T11:10:00+02:00', '2026-11-24T09:10:00Z'],
    ['2026-11-24T04:40:00-0430', '2026-11-24T09:10:00Z'],
    ['2026-11-24T09:10Z', '2026-11-24T09:10:00Z'],
  ])('reads %s', (text, iso) => {
    expect(parseInstant(text, 'Asia/Tokyo')).toBe(Date.parse(iso));
  });

  it('takes a time without an offset as the zone’s', () => {
    expect(parseInstant('2026-07-01T09:00:00', 'Europe/Dublin')).toBe(Date.parse('2026-07-01T08:00:00Z'));
    expect(parseInstant('2026-12-01', 'Europe/Dublin')).toBe(Date.parse('2026-12-01T00:00:00Z'));
  });

  it.each([
    'yesterday',
    '',
    '2026-02-30T10:00:00Z',
    '2026-11-24T25:00:00Z',
    '2026-11-24T10:61:00Z',
    '24/11/2026 09:10',
    '2026-11-24T10:00:00X',
  ])('refuses %j', (text) => expect(parseInstant(text, 'UTC')).toBeNull());

  it('reads back every instant that a Date writes', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 4e12 }), (instant) => {
        expect(parseInstant(new Date(instant).toISOString(), 'UTC')).toBe(instant);
      }),
    );
  });
});
