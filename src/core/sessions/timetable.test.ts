import { describe, expect, it } from 'vitest';
import { dateOfDay, dayFromDate, MINUTE } from '../time/zone';
import { codeAt, codeLasts, doorAt, isCode } from './check-in';
import {
  clashes,
  daysOfRule,
  minuteOfDay,
  MOST_IN_SERIES,
  timesOn,
  weeklyOf,
  weeklyRule,
  type Timed,
} from './timetable';

const day = (text: string) => dayFromDate(text)!;
const iso = (at: number) => new Date(at).toISOString().slice(0, 16);

describe('a weekly series', () => {
  const rule = weeklyRule({
    days: [2, 0],
    from: day('2026-10-14'),
    until: day('2026-11-02'),
    minuteOfDay: 18 * 60 + 30,
  });

  it('is a rule of local times, and can be read again', () => {
    expect(rule).toBe('DTSTART:20261014T183000\nRRULE:FREQ=WEEKLY;BYDAY=MO,WE;UNTIL=20261102T235959');
    expect(weeklyOf(rule)).toEqual({
      days: [0, 2],
      from: day('2026-10-14'),
      until: day('2026-11-02'),
      minuteOfDay: 1110,
    });
  });

  it('has its days, the last included, and none in a break', () => {
    const all = ['2026-10-14', '2026-10-19', '2026-10-21', '2026-10-26', '2026-10-28', '2026-11-02'];
    expect(daysOfRule(rule).map(dateOfDay)).toEqual(all);
    const breaks = [[day('2026-10-20'), day('2026-10-26')]] as const;
    expect(daysOfRule(rule, breaks).map(dateOfDay)).toEqual([all[0], all[1], all[4], all[5]]);
  });

  it('shows when there are too many', () => {
    const long = weeklyRule({
      days: [0, 1, 2, 3, 4, 5, 6],
      from: day('2026-01-01'),
      until: day('2036-01-01'),
      minuteOfDay: 0,
    });
    expect(daysOfRule(long)).toHaveLength(MOST_IN_SERIES + 1);
  });

  it('stays at its time on the wall when the clocks change', () => {
    const [before, after] = ['2026-10-21', '2026-10-28'].map((date) => timesOn(day(date), 1110, 75, 'Europe/Dublin'));
    expect([iso(before.starts_at), iso(before.ends_at)]).toEqual(['2026-10-21T17:30', '2026-10-21T18:45']);
    expect([iso(after.starts_at), iso(after.ends_at)]).toEqual(['2026-10-28T18:30', '2026-10-28T19:45']);
    expect([before, after].map(({ starts_at }) => minuteOfDay(starts_at, 'Europe/Dublin'))).toEqual([1110, 1110]);
  });
});

describe('clashes', () => {
  const one = (id: number, from: number, to: number, more: Partial<Timed> = {}): Timed => ({
    id,
    course_id: 1,
    group_id: 1,
    instructor_id: null,
    starts_at: from,
    ends_at: to,
    cancelled: 0,
    ...more,
  });
  const of = (...sessions: Timed[]) =>
    [...clashes(sessions)].map(([id, { other, of: whose }]) => [id, other.id, whose]);

  it('are of a group, or of an instructor over all courses', () => {
    expect(of(one(1, 0, 10), one(2, 9, 20))).toEqual([
      [1, 2, 'group'],
      [2, 1, 'group'],
    ]);
    expect(of(one(1, 0, 10), one(2, 5, 20, { group_id: 2 }))).toEqual([]);
    expect(of(one(1, 0, 10, { group_id: null }), one(2, 5, 20, { group_id: 2 }))).toHaveLength(2);
    const taught = { instructor_id: 7 };
    expect(of(one(1, 0, 10, taught), one(2, 5, 20, { ...taught, course_id: 2 }))[0]).toEqual([1, 2, 'instructor']);
  });

  it('are none of sessions that follow each other, and none of one that is not held', () => {
    expect(of(one(1, 0, 10), one(2, 10, 20))).toEqual([]);
    expect(of(one(1, 0, 10), one(2, 5, 20, { cancelled: 1 }))).toEqual([]);
  });

  it('are found behind a long session', () => {
    expect(of(one(1, 0, 100), one(2, 10, 20, { group_id: 2 }), one(3, 50, 60)).map(([id]) => id)).toEqual([1, 3]);
  });
});

describe('checking in', () => {
  const secret = 'KA7OOZ6L4ECN37OG4RBD7QZFKQPAOYVK';
  const at = Date.parse('2026-11-24T18:30:05Z');

  it('takes the code of now and of the step before, and no other', () => {
    const code = codeAt(secret, at);
    expect(code).toMatch(/^\d{6}$/);
    expect(codeLasts(at)).toBe(15_000);
    const later = (seconds: number) => isCode(secret, code, at + seconds * 1000);
    expect([0, 14, 15, 34, 35, 60, -10].map(later)).toEqual([true, true, true, true, false, false, false]);
    expect(isCode(secret, '12345', at)).toBe(false);
    expect(isCode('GEZDGNBVGY3TQOJQGEZDGNBVGY3TQOJQ', code, at)).toBe(false);
  });

  it('opens ten minutes before, is late after its minutes, and ends with the session', () => {
    const session = { starts_at: at, ends_at: at + 60 * MINUTE };
    const door = (minutes: number) => doorAt(at + minutes * MINUTE, session, 10);
    expect([-11, -10, 0, 10, 10.1, 59, 60].map(door)).toEqual([
      'early',
      'open',
      'open',
      'open',
      'late',
      'late',
      'over',
    ]);
  });
});
