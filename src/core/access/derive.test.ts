import { describe, expect, it } from 'vitest';
import { dayFromDate } from '../time/zone';
import { derive } from './derive';
import { kindOfAction } from './kinds';
import { daysQuiet } from './last-access';
import { TAIL, type AccessEvent } from './visits';

const zone = 'Europe/Dublin';
const event = (iso: string, more: Partial<AccessEvent> = {}): AccessEvent => ({
  at: Date.parse(iso),
  courseId: 1,
  itemId: null,
  kind: 'looked',
  ...more,
});

describe('derive', () => {
  it('counts a visit over midnight whole on the day it starts, its events each on their own', () => {
    const { days } = derive([event('2026-11-20T23:50:00Z'), event('2026-11-21T00:10:00Z')], zone);
    expect(days).toMatchObject([
      { day: dayFromDate('2026-11-20'), events: 1, ms: 20 * 60_000 + TAIL },
      { day: dayFromDate('2026-11-21'), events: 1, ms: 0 },
    ]);
  });

  it('keeps the hour that occurs twice in one day of 25 hours', () => {
    const events = [
      event('2026-10-24T23:00:00Z'),
      event('2026-10-25T00:30:00Z'),
      event('2026-10-25T01:30:00Z'),
      event('2026-10-25T23:59:00Z'),
    ];
    const { days } = derive(events, zone);
    expect(days).toHaveLength(1);
    expect(days[0]).toMatchObject({ day: dayFromDate('2026-10-25'), events: 4 });
  });

  it('gives a course time on a day without events of its own there, when its visit began the day before', () => {
    const events = [event('2026-11-20T23:55:00Z', { courseId: 1 }), event('2026-11-21T00:05:00Z', { courseId: 2 })];
    const { days } = derive(events, zone);
    expect(days.find((row) => row.courseId === 2 && row.events === 0)).toMatchObject({
      ms: TAIL,
      first: null,
      last: null,
    });
  });

  it('counts openings of an item, but not events of kind other', () => {
    const on = (iso: string, kind: AccessEvent['kind']) => event(iso, { itemId: 7, kind });
    const { items } = derive(
      [on('2026-11-20T10:00:00Z', 'other'), on('2026-11-20T10:01:00Z', 'worked'), on('2026-11-20T10:02:00Z', 'talked')],
      zone,
    );
    expect(items).toMatchObject([
      {
        itemId: 7,
        events: 3,
        opens: 2,
        first: Date.parse('2026-11-20T10:01:00Z'),
        last: Date.parse('2026-11-20T10:02:00Z'),
      },
    ]);
  });
});

describe('daysQuiet', () => {
  const now = Date.parse('2026-11-24T00:30:00Z');
  it('is whole calendar days, and null for never', () => {
    expect(daysQuiet(Date.parse('2026-11-23T23:59:00Z'), now, zone)).toBe(1);
    expect(daysQuiet(Date.parse('2026-11-24T00:10:00Z'), now, zone)).toBe(0);
    expect(daysQuiet(null, now, zone)).toBeNull();
  });

  it('is 0 for an event that a fast clock puts ahead of now', () => {
    expect(daysQuiet(now + 86_400_000, now, zone)).toBe(0);
  });

  it('counts calendar days over the change of clocks', () => {
    expect(daysQuiet(Date.parse('2026-10-24T22:30:00Z'), Date.parse('2026-10-26T00:30:00Z'), zone)).toBe(2);
  });
});

it('knows the built-in actions, and takes any other word as other', () => {
  expect(['opened', 'submitted', 'posted', 'signed_in', 'toString'].map(kindOfAction)).toEqual([
    'looked',
    'worked',
    'talked',
    'other',
    'other',
  ]);
});
