import { describe, expect, it } from 'vitest';
import { DEFAULT_MARKS } from './attendance';
import { LATE_AFTER, outcomeOf, wasThere, type OutcomeFacts } from './outcome';
import { DEFAULT_THRESHOLDS } from './suggest';

const marks = new Map(DEFAULT_MARKS.map((mark) => [mark.code, mark]));
const rule = { ...DEFAULT_THRESHOLDS, lateAfter: LATE_AFTER };
const MINUTE = 60_000;
const facts = (more: Partial<OutcomeFacts> = {}): OutcomeFacts => ({
  startsAt: 0,
  endsAt: 100 * MINUTE,
  isClosed: false,
  mark: null,
  isByCheckIn: false,
  checkedInAt: null,
  presence: null,
  hasPresence: false,
  hasUnnamed: false,
  ...more,
});
const of = (more: Partial<OutcomeFacts>, by = rule) => outcomeOf(facts(more), by, marks);
const seen = (minutes: number, firstIn = 0) => ({
  ms: minutes * MINUTE,
  firstIn: firstIn * MINUTE,
  lastOut: (firstIn + minutes) * MINUTE,
});

describe('the outcome of a session', () => {
  it('is the mark, whatever else is known', () => {
    expect(of({ mark: 'excused', checkedInAt: 0, presence: seen(100), hasPresence: true })).toMatchObject({
      mark: 'excused',
      counts: false,
      isProvisional: false,
    });
    expect(of({ mark: 'absent', isClosed: true })).toMatchObject({ credit: 0 });
    // A check-in's mark waits for the roll.
    expect(of({ mark: 'present', isByCheckIn: true })).toMatchObject({ isProvisional: true });
    expect(of({ mark: 'present', isByCheckIn: true, isClosed: true })).toMatchObject({ isProvisional: false });
  });

  it('is a check-in or what presence suggests while the roll is not closed, and then nothing', () => {
    expect(of({ checkedInAt: 10 * MINUTE })).toMatchObject({ mark: 'present', isProvisional: true });
    expect(of({ checkedInAt: 10 * MINUTE + 1 })).toMatchObject({ mark: 'late' });
    const presence = [seen(100), seen(80, 11), seen(50), seen(9)];
    expect(presence.map((one) => of({ presence: one, hasPresence: true })?.mark)).toEqual([
      'present',
      'late',
      'partial',
      'absent',
    ]);
    expect(of({ presence: seen(100), hasPresence: true, isClosed: true })).toBeNull();
    // A course may ask for more.
    const strict = { ...rule, absentUnder: 0.5 };
    expect(of({ presence: seen(49), hasPresence: true }, strict)?.mark).toBe('absent');
  });

  it('is absence of whoever was not seen, but not while they may be among names without a learner', () => {
    expect(of({ hasPresence: true })).toMatchObject({ mark: 'absent', isProvisional: true });
    expect(of({ hasPresence: true, hasUnnamed: true })).toBeNull();
    expect(of({})).toBeNull();
  });

  it('says whether they were there, where that counts', () => {
    expect(['late', 'absent', 'excused'].map((mark) => wasThere(of({ mark })))).toEqual([true, false, null]);
    expect(wasThere(null)).toBeNull();
  });
});
