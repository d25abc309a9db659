import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { HOUR, MINUTE } from '../time/zone';
import { attendanceOf } from './attendance';
import { Matcher, foldName, likeness } from './match';
import { presenceOf, type Interval } from './presence';
import { suggestMark } from './suggest';

const START = Date.parse('2026-11-12T18:30:00Z');
const session = { start: START, end: START + 90 * MINUTE };
const at = (minutes: number) => START + minutes * MINUTE;
const there = (...intervals: [number, number | null][]): Interval[] =>
  intervals.map(([from, to]) => ({ entered: at(from), left: to === null ? null : at(to) }));

describe('presence', () => {
  it('is the time that any device was there, cut to the session', () => {
    expect(presenceOf(there([-10, 20], [15, 30], [40, 100]), session)).toEqual({
      ms: 80 * MINUTE,
      share: 80 / 90,
      firstIn: at(0),
      lastOut: at(90),
      reconnects: 1,
      longestGapMs: 10 * MINUTE,
      intervals: [
        [at(0), at(30)],
        [at(40), at(90)],
      ],
      isOpen: false,
    });
  });

  it('is no gap where one device goes as the other comes', () => {
    expect(presenceOf(there([0, 30], [30, 60]), session)).toMatchObject({ reconnects: 0, longestGapMs: 0 });
  });

  it('of an interval without an end goes on to the session’s, and says so', () => {
    expect(presenceOf(there([60, null]), session)).toMatchObject({ ms: 30 * MINUTE, isOpen: true, lastOut: at(90) });
  });

  it('is none outside of the session, nor of an interval that ends before it begins', () => {
    const outside = presenceOf(there([-30, -5], [95, null], [40, 20], [90, 95]), session);
    expect(outside).toMatchObject({ ms: 0, share: 0, firstIn: null, lastOut: null, reconnects: 0, longestGapMs: 0 });
    expect(suggestMark(outside, session, 'UTC')).toEqual({
      mark: 'absent',
      reason: 'there outside of the session alone',
    });
  });

  it('is the same in whatever order the rows come, and never more than the session', () => {
    const interval = fc.tuple(fc.integer({ min: -20, max: 110 }), fc.option(fc.integer({ min: -20, max: 110 })));
    fc.assert(
      fc.property(fc.array(interval, { maxLength: 12 }), (list) => {
        const rows = there(...(list as [number, number | null][]));
        const one = presenceOf(rows, session);
        expect(presenceOf([...rows].reverse(), session)).toEqual(one);
        // Minute by minute, as one would count on paper.
        const minutes = Array.from({ length: 90 }, (_, minute) => minute).filter((minute) =>
          rows.some(({ entered, left }) => entered <= at(minute) && (left ?? session.end) >= at(minute + 1)),
        );
        expect(one.ms).toBe(minutes.length * MINUTE);
      }),
    );
  });
});

describe('the suggested mark', () => {
  const suggest = (...intervals: [number, number | null][]) =>
    suggestMark(intervals.length === 0 ? null : presenceOf(there(...intervals), session), session, 'UTC');

  it.each([
    [[0, 90], 'present', 'there for 1 h 30 min of 1 h 30 min'],
    [[10, 80], 'present', 'there for 1 h 10 min of 1 h 30 min'],
    [[10.01, 90], 'late', 'in at 18:40'],
    [[0, 67.5], 'present', 'there for 1 h 8 min of 1 h 30 min'],
    [[0, 67], 'partial', 'there for 1 h 7 min of 1 h 30 min, out at 19:37'],
    [[61, 90], 'partial', 'there for 29 min of 1 h 30 min, in at 19:31'],
    [[0, 9], 'partial', 'there for 9 min of 1 h 30 min, out at 18:39'],
    [[1, 5], 'absent', 'left after 4 min'],
  ] as const)('of %j is %s: %s', (interval, mark, reason) => {
    expect(suggest(interval as unknown as [number, number])).toEqual({ mark, reason });
  });

  it('of nobody seen is absent', () => expect(suggest()).toEqual({ mark: 'absent', reason: 'not seen' }));

  it('goes by a course’s own thresholds', () => {
    const presence = presenceOf(there([20, 90]), session);
    const own = { absentUnder: 0.5, presentFrom: 0.7, graceMinutes: 30 };
    expect(suggestMark(presence, session, 'UTC', own).mark).toBe('present');
    expect(suggestMark(presenceOf(there([0, 40]), session), session, 'UTC', own).mark).toBe('absent');
  });

  it('is the same on a night when the clocks change', () => {
    const night = { start: Date.parse('2026-10-25T00:30:00Z'), end: Date.parse('2026-10-25T00:30:00Z') + 2 * HOUR };
    const presence = presenceOf([{ entered: night.start + HOUR, left: night.end }], night);
    expect(suggestMark(presence, night, 'Europe/Dublin')).toEqual({
      mark: 'partial',
      reason: 'there for 1 h of 2 h, in at 01:30',
    });
  });
});

describe('names', () => {
  it.each([
    ['Inès  Abara', 'ines abara'],
    ['INES ABARA (phone)', 'ines abara'],
    ['Ines Abara [iPad', 'ines abara'],
    ["Halima O'Dell", 'halima odell'],
    ['Halima O’Dell', 'halima odell'],
    ['Ines-Abara, laptop', 'ines abara'],
    ['Phone', 'phone'],
    ['', ''],
  ])('%j is folded to %j', (name, folded) => expect(foldName(name)).toBe(folded));

  it('are as alike as the authors of the measure say', () => {
    const round = (value: number) => Math.round(value * 1000) / 1000;
    expect(round(likeness('martha', 'marhta'))).toBe(0.961);
    expect(round(likeness('dwayne', 'duane'))).toBe(0.84);
    expect(round(likeness('dixon', 'dicksonx'))).toBe(0.813);
    expect([likeness('same', 'same'), likeness('abc', 'xyz'), likeness('', '')]).toEqual([1, 0, 1]);
  });
});

describe('matching', () => {
  const people = [
    { id: 1, learnerId: 'L1', name: 'Ines Marrow', email: 'ines@learner.example' },
    { id: 2, learnerId: 'L2', name: 'Tobias Quill', email: null },
    { id: 3, learnerId: 'L3', name: 'Bram Quarrie', email: null },
    { id: 4, learnerId: 'L4', name: 'Bram Quarrie', email: 'bram@learner.example' },
  ];
  const matcher = new Matcher(
    people,
    new Map([
      ['toby', 2],
      ['bram quarrie', 3],
      ['the caretaker', null],
    ]),
  );
  const match = (person: string, email: string | null = null) => matcher.match({ person, email });

  it('goes by e-mail, then id, then the very name', () => {
    expect(match('Somebody else', ' Ines@Learner.example ')).toEqual({ by: 'email', id: 1 });
    expect(match('l2')).toEqual({ by: 'id', id: 2 });
    expect(match('tobías QUILL (phone)')).toEqual({ by: 'name', id: 2 });
  });

  it('goes by what was settled before, also that somebody is no learner', () => {
    expect(match('Toby')).toEqual({ by: 'alias', id: 2 });
    expect(match('The caretaker')).toEqual({ by: 'nobody' });
  });

  it('never tells two of one name apart by it, but by e-mail or by what somebody settled', () => {
    expect(match('Bram Quarrie', 'bram@learner.example')).toEqual({ by: 'email', id: 4 });
    expect(match('Bram Quarrie')).toEqual({ by: 'alias', id: 3 });
    expect(new Matcher(people).match({ person: 'Bram Quarrie', email: null })).toEqual({ by: null });
    // Nor by one that is close to both.
    expect(new Matcher(people).propose({ person: 'Bram Quarie' })).toBeNull();
  });

  it('proposes a close one where there is one alone, and nobody for a stranger', () => {
    expect(match('Ines Marow')).toEqual({ by: null });
    expect(matcher.propose({ person: 'Ines Marow' })).toMatchObject({ id: 1 });
    expect(matcher.propose({ person: 'Wynn Calloway' })).toBeNull();
    expect(matcher.propose({ person: '(guest)' })).toBeNull();
  });
});

describe('attendance', () => {
  it('is credit by what counts', () => {
    expect(attendanceOf(['present', 'late', 'excused', 'partial', 'absent', 'absent', 'excused'])).toEqual({
      counted: 5,
      credit: 2.25,
      rate: 0.45,
      trend: null,
      byMark: { present: 1, late: 1, excused: 2, partial: 1, absent: 2 },
      missedInARow: 2,
    });
  });

  it('has a trend once there is enough to hold the last four against', () => {
    const of = (...codes: string[]) => attendanceOf(codes).trend;
    expect(of('present', 'present', 'absent', 'absent', 'present', 'absent')).toBeCloseTo(0.25 - 1);
    expect(of('present', 'absent', 'present', 'present', 'present')).toBeNull();
    expect(of('absent', 'excused', 'absent', 'present', 'present', 'present', 'excused', 'present')).toBe(1);
  });

  it('is null of nothing, and of what does not count', () => {
    expect(attendanceOf([])).toMatchObject({ counted: 0, rate: null, missedInARow: 0 });
    expect(attendanceOf(['excused', 'a mark that is no more'])).toMatchObject({ counted: 0, rate: null });
    expect(attendanceOf(['absent', 'absent'])).toMatchObject({ rate: 0, missedInARow: 2 });
  });
});
