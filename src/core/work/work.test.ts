import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { DAY } from '../time/zone';
import { attemptAsOf, countingAttempt, firstHandIn, sharesOf, waitsSince, type Attempt } from './attempt';
import { attemptsFromStatements, stepOf, type AttemptStatement } from './live';
import { daysLate, isOverdue, isWork, dueStateOf } from './due';

const attempt = (number: number, more: Partial<Attempt> = {}): Attempt => ({
  number,
  started_at: number * 10,
  submitted_at: number * 10 + 5,
  score: null,
  points: null,
  graded_at: null,
  has_feedback: false,
  dismissed_at: null,
  ...more,
});

describe('the attempt that counts', () => {
  const attempts = [
    attempt(1, { score: 12, points: 20, graded_at: 20 }),
    attempt(2, { score: 18, points: 20, graded_at: 30 }),
    attempt(3, { score: 9, points: 20, graded_at: 40 }),
  ];
  it.each([
    ['best', 18],
    ['first', 12],
    ['last', 9],
    ['mean', 13],
  ] as const)('is by the policy %s', (policy, score) => {
    expect(countingAttempt(attempts, 20, policy)?.score).toBeCloseTo(score);
    // In whatever order they are stored.
    expect(countingAttempt([...attempts].reverse(), 20, policy)?.score).toBeCloseTo(score);
  });

  it('passes dismissed ones over, keeps points above the maximum, and needs points', () => {
    const dismissed = attempts.map((one) => (one.number === 2 ? { ...one, dismissed_at: 50 } : one));
    expect(countingAttempt(dismissed, 20)?.score).toBe(12);
    expect(countingAttempt([attempt(1, { score: 23 })], 20)?.share).toBeCloseTo(1.15);
    expect(countingAttempt([attempt(1, { score: 5 })], null)).toBeNull();
    expect(countingAttempt([attempt(1, { score: 5, points: 0 })], 0)).toBeNull();
    expect(countingAttempt([], 20)).toBeNull();
  });

  it('goes by the points that a result was given out of, not by those of now', () => {
    expect(countingAttempt([attempt(1, { score: 15, points: 20 })], 40)?.share).toBe(0.75);
    expect(sharesOf([attempt(2, { score: 5 }), attempt(1, { score: 10 })], 10)).toEqual([1, 0.5]);
  });

  it('holds with 200 attempts', () => {
    const many = Array.from({ length: 200 }, (_, i) => attempt(i + 1, { score: (i * 37) % 101, points: 100 }));
    expect(countingAttempt(many, 100)?.score).toBe(100);
    expect(countingAttempt(many, 100, 'last')?.score).toBe(many[199].score);
  });
});

describe('what waits for us', () => {
  it('is the newest hand-in without a grade or an answer', () => {
    const graded = attempt(1, { score: 5, graded_at: 20 });
    expect(waitsSince([graded])).toBeNull();
    expect(waitsSince([graded, attempt(2)])).toBe(25);
    expect(waitsSince([attempt(1), attempt(2, { score: 5 })])).toBeNull();
    expect(waitsSince([attempt(1, { has_feedback: true })])).toBeNull();
    expect(waitsSince([attempt(1), attempt(2, { dismissed_at: 30 })])).toBe(15);
    expect(waitsSince([attempt(1, { submitted_at: null })])).toBeNull();
    expect(firstHandIn([attempt(2), attempt(1)])).toBe(15);
  });

  it('is as it was known at an instant', () => {
    const one = attempt(1, { score: 5, graded_at: 30, dismissed_at: 60 });
    expect(attemptAsOf(one, 5)).toBeNull();
    expect(attemptAsOf(one, 12)).toMatchObject({ submitted_at: null, score: null });
    expect(attemptAsOf(one, 20)).toMatchObject({ submitted_at: 15, score: null, graded_at: null });
    expect(attemptAsOf(one, 30)).toMatchObject({ score: 5, dismissed_at: null });
    expect(attemptAsOf(one, 60)?.dismissed_at).toBe(60);
    // Graded before it was handed in: known from its grade on.
    expect(attemptAsOf(attempt(1, { graded_at: 4, score: 3 }), 6)).toMatchObject({ score: 3, submitted_at: null });
  });
});

describe('work owed', () => {
  const dueAt = 100 * DAY;
  const state = (attempts: Attempt[], now = 99 * DAY, isExempt = false) =>
    dueStateOf({ attempts, dueAt, isExempt, now });
  it('is the first state that holds', () => {
    expect(state([attempt(1, { score: 3 })], undefined, true)).toBe('exempt');
    expect(state([attempt(1, { score: 3, submitted_at: null })])).toBe('graded');
    expect(state([attempt(1, { submitted_at: dueAt })])).toBe('handed_in');
    expect(state([attempt(1, { submitted_at: dueAt + 1 }), attempt(2, { submitted_at: dueAt + 9 })])).toBe(
      'handed_in_late',
    );
    expect(state([attempt(1, { submitted_at: null })])).toBe('started_not_handed_in');
    expect([dueAt + 1, dueAt, dueAt - 3 * DAY, dueAt - 3 * DAY - 1].map((now) => state([], now))).toEqual([
      'overdue',
      'due_soon',
      'due_soon',
      'not_due',
    ]);
    expect(state([attempt(1, { dismissed_at: 1 })], dueAt + 1)).toBe('overdue');
  });

  it('counts what was begun and not handed in as owed once it is past its date', () => {
    expect([
      isOverdue('overdue', 1, 2),
      isOverdue('started_not_handed_in', 1, 2),
      isOverdue('started_not_handed_in', 3, 2),
      isOverdue('graded', 1, 2),
    ]).toEqual([true, true, false, false]);
    expect([daysLate(0, null, 2.9 * DAY), daysLate(0, DAY, 9 * DAY), daysLate(5, 4, 9 * DAY)]).toEqual([2, 1, 0]);
    expect([isWork('quiz', null), isWork('page', 5), isWork('discussion', null), isWork('page', 0)]).toEqual([
      true,
      true,
      false,
      false,
    ]);
  });
});

describe('attempts of live statements', () => {
  const said = (
    at: number,
    step: AttemptStatement['step'],
    more: Partial<AttemptStatement> = {},
  ): AttemptStatement => ({
    at,
    step,
    score: null,
    points: null,
    durationMs: null,
    registration: null,
    ...more,
  });
  const MIN = 60_000;

  it('begin, end and are scored, and another beginning is another attempt', () => {
    const all = [
      said(0, 'begins'),
      said(10 * MIN, 'ends', { score: 5, points: 10 }),
      said(10 * MIN + 100, 'ends'),
      said(60 * MIN, 'begins'),
      said(70 * MIN, 'ends'),
      said(900 * MIN, 'scores', { score: 9, points: 10 }),
    ];
    expect(attemptsFromStatements(all)).toEqual([
      { startedAt: 0, submittedAt: 10 * MIN, score: 5, points: 10, gradedAt: 10 * MIN },
      { startedAt: 60 * MIN, submittedAt: 70 * MIN, score: 9, points: 10, gradedAt: 900 * MIN },
    ]);
  });

  it('are the same whatever the order in which statements came', () => {
    const all = [
      said(0, 'begins'),
      said(5, 'ends'),
      said(9, 'scores', { score: 1 }),
      said(50 * MIN, 'begins'),
      said(55 * MIN, 'ends', { score: 2 }),
    ];
    const expected = attemptsFromStatements(all);
    fc.assert(
      fc.property(fc.shuffledSubarray(all, { minLength: all.length }), (shuffled) => {
        expect(attemptsFromStatements(shuffled)).toEqual(expected);
      }),
    );
  });

  it('go by the sender’s own name of an attempt, and by how long it took', () => {
    const all = [said(100, 'ends', { registration: 'a', durationMs: 60 }), said(101, 'ends', { registration: 'b' })];
    expect(attemptsFromStatements(all)).toMatchObject([{ startedAt: 40 }, { startedAt: null }]);
    expect([
      stepOf('completed'),
      stepOf('initialized'),
      stepOf('scored'),
      stepOf('opened'),
      stepOf('toString'),
    ]).toEqual(['ends', 'begins', 'scores', null, null]);
  });
});
