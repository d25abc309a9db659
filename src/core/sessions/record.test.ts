import { describe, expect, it } from 'vitest';
import { dayFromDate } from '../time/zone';
import { DEFAULT_MARKS } from './attendance';
import { nameMissed, saySession, wordOfOutcome, type SessionFacts } from './record';

const marks = new Map(DEFAULT_MARKS.map((mark) => [mark.code, mark]));
const at = (time: string) => Date.parse(`2026-11-12T${time}Z`);
const now = at('23:00:00');
const facts = (more: Partial<SessionFacts> = {}): SessionFacts => ({
  title: 'Week 8 live',
  day: dayFromDate('2026-11-12')!,
  starts_at: at('18:30:00'),
  ends_at: at('20:00:00'),
  cancelled: 0,
  roll_at: null,
  mark: null,
  ms: null,
  first_in: null,
  last_out: null,
  is_open: null,
  checked_in_at: null,
  is_provisional: null,
  ...more,
});
const seen = { ms: 4 * 60_000, first_in: at('18:31:00'), last_out: at('18:35:00') };

describe('a session in a record', () => {
  it('is attended, missed or excused by its outcome, once it has ended', () => {
    const of = (credit: number | null, counts = 1, ends_at = at('20:00:00')) =>
      wordOfOutcome({ credit, counts, ends_at }, now);
    expect([of(1), of(0.5), of(0), of(0, 0), of(null)]).toEqual(['attended', 'attended', 'missed', 'excused', null]);
    expect(of(1, 1, now + 1)).toBeNull();
  });

  it('is said as evidence', () => {
    expect(saySession(facts(seen), marks, 'Europe/Dublin', now)).toBe(
      'session on Thu 12 Nov: in 18:31, out 18:35, 4 of 90 min',
    );
    expect(saySession(facts({ mark: 'absent' }), marks, 'Europe/Dublin', now)).toBe('session on Thu 12 Nov: absent');
    expect(saySession(facts(), marks, 'Europe/Dublin', now)).toBe('session on Thu 12 Nov: nothing known');
    const came = facts({ mark: 'late', checked_in_at: at('18:45:00'), is_provisional: 1 });
    expect(saySession(came, marks, 'Europe/Dublin', now)).toBe(
      'session on Thu 12 Nov: checked in 18:45, late, provisional, the roll is not closed',
    );
    expect(saySession(facts({ cancelled: 1 }), marks, 'Europe/Dublin', now)).toBe('session on Thu 12 Nov: cancelled');
  });

  it('of somebody who is in it now says since when', () => {
    const open = facts({ ms: 90 * 60_000, first_in: at('18:31:00'), last_out: at('20:00:00'), is_open: 1 });
    expect(saySession(open, marks, 'Europe/Dublin', at('19:00:00'))).toBe('session on Thu 12 Nov: in since 18:31');
    expect(saySession(open, marks, 'Europe/Dublin', now)).toBe(
      'session on Thu 12 Nov: in 18:31, out 20:00, 90 of 90 min',
    );
  });

  it('is named in a message, the last five of many', () => {
    const list = (count: number) => Array.from({ length: count }, (_, i) => facts({ title: `Week ${i + 1}` }));
    expect(nameMissed([], 'Europe/Dublin', now)).toBeNull();
    expect(nameMissed(list(1), 'Europe/Dublin', now)).toBe('Week 1 (Thu 12 Nov, 18:30)');
    expect(nameMissed(list(2), 'Europe/Dublin', now)).toBe('Week 1 (Thu 12 Nov, 18:30) and Week 2 (Thu 12 Nov, 18:30)');
    expect(nameMissed(list(7), 'Europe/Dublin', now)).toMatch(/^2 earlier ones, Week 3 .* and Week 7 /);
  });
});
