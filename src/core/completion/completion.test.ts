import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { DAY, MINUTE } from '../time/zone';
import type { Attempt } from '../work/attempt';
import { courseStatus, progressOf, milestonesOf } from './progress';
import { paceByWeek, paceOf, planOf, sayBehind, weeksLeft } from './pace';
import { ruleOf, sayRule } from './rule';
import { NOTHING_KNOWN, factsAsOf, stateOfItem, type ItemDay, type ItemFacts, type RuledItem } from './state';

const item = (doneWhen: string, more: Partial<RuledItem> = {}): RuledItem => ({
  rule: ruleOf('quiz', doneWhen),
  points: 20,
  policy: 'best',
  ...more,
});
const attempt = (more: Partial<Attempt> = {}): Attempt => ({
  number: 1,
  started_at: 1,
  submitted_at: 2,
  score: null,
  points: 20,
  graded_at: null,
  has_feedback: false,
  dismissed_at: null,
  ...more,
});
const day = (number: number, more: Partial<ItemDay> = {}): ItemDay => ({
  day: number,
  opens: 1,
  events: 1,
  talked: 0,
  ms: MINUTE,
  first: number * DAY,
  last: number * DAY + MINUTE,
  ...more,
});
const known = (more: Partial<ItemFacts>): ItemFacts => ({ ...NOTHING_KNOWN, ...more });

describe('a rule', () => {
  it('is that of the kind where the outline says nothing, and reads its conditions where it does', () => {
    expect(['page', 'quiz', 'discussion', 'session'].map((kind) => sayRule(ruleOf(kind as never, null)))).toEqual([
      'opened',
      'handed in',
      'something posted',
      'attended',
    ]);
    expect(ruleOf('file', 'opened; minutes>=5;watched>=80%')).toEqual([
      { on: 'opened' },
      { on: 'minutes', least: 5 },
      { on: 'watched', least: 80 },
    ]);
  });
});

describe('the state of an item', () => {
  it('is done when every condition holds, from when the last of them did', () => {
    const facts = known({ days: [day(10), day(12, { ms: 5 * MINUTE })] });
    expect(stateOfItem(item('opened;minutes>=5'), facts)).toMatchObject({
      state: 'done',
      doneAt: 12 * DAY + MINUTE,
      by: 'rule',
    });
    expect(stateOfItem(item('opened;minutes>=7'), facts)).toMatchObject({ state: 'started', left: ['6 of 7 minutes'] });
    // 6.97 minutes are not 7.
    const nearly = known({ days: [day(1, { ms: 6.97 * MINUTE })] });
    expect(stateOfItem(item('minutes>=7'), nearly).left).toEqual(['6.9 of 7 minutes']);
  });

  it('says what is left in numbers', () => {
    const quiz = item('handed_in;score>=60%');
    expect(stateOfItem(quiz, NOTHING_KNOWN)).toEqual({
      state: 'not_started',
      doneAt: null,
      by: null,
      left: ['not tried', 'not tried, 60 % needed'],
    });
    expect(stateOfItem(quiz, known({ attempts: [attempt({ submitted_at: null })] })).left).toEqual([
      'begun, not handed in',
      '60 % needed',
    ]);
    expect(stateOfItem(quiz, known({ attempts: [attempt()] })).left).toEqual(['not graded yet, 60 % needed']);
    expect(stateOfItem(quiz, known({ attempts: [attempt({ score: 10.8, graded_at: 3 })] })).left).toEqual([
      '54 of 60 %',
    ]);
    expect(stateOfItem(item('talked>=2'), known({ days: [day(1, { talked: 1 })] })).left).toEqual(['1 of 2 posts']);
    expect(stateOfItem(item('by_hand'), NOTHING_KNOWN).left).toEqual(['to be marked by somebody']);
  });

  it('is met by the first attempt that was good enough where the best counts', () => {
    const attempts = [
      attempt({ score: 8, graded_at: 10 }),
      attempt({ number: 2, score: 13, graded_at: 20 }),
      attempt({ number: 3, score: 19, graded_at: 30 }),
    ];
    expect(stateOfItem(item('score>=60%'), known({ attempts })).doneAt).toBe(20);
    expect(stateOfItem(item('score>=60%', { policy: 'first' }), known({ attempts })).state).toBe('started');
    expect(stateOfItem(item('score>=60%', { policy: 'last' }), known({ attempts })).doneAt).toBe(30);
  });

  it('cannot be measured where the feed has no progress, which is no "no"', () => {
    expect(stateOfItem(item('watched>=80%'), known({ days: [day(1)] })).left).toEqual([
      'share watched: not measurable',
    ]);
    const watched = known({
      progress: [
        [1, 0.4],
        [5, 0.805],
      ],
    });
    expect(stateOfItem(item('watched>=80%'), watched)).toMatchObject({ state: 'done', doneAt: 5 });
    expect(stateOfItem(item('watched>=90%'), watched).left).toEqual(['watched 80 of 90 %']);
  });

  it('goes by a override set by hand before the rule, and by an excusal', () => {
    const override = { state: 'done' as const, at: 7, by: 'Jory Kestle', reason: 'on paper' };
    expect(stateOfItem(item('handed_in'), known({ override }))).toMatchObject({ state: 'done', doneAt: 7, by: 'hand' });
    expect(
      stateOfItem(item('opened'), known({ days: [day(1)], override: { ...override, state: 'exempt' } })).state,
    ).toBe('exempt');
    expect(stateOfItem(item('opened'), known({ excusedAt: 3 }))).toMatchObject({ state: 'exempt', by: 'hand' });
    // Done by hand stands although they were excused.
    expect(stateOfItem(item('opened'), known({ excusedAt: 3, override })).state).toBe('done');
  });

  it('is as it was known at an instant: a grade counts from when it was given', () => {
    const facts = known({
      attempts: [attempt({ started_at: 5, submitted_at: 10, score: 20, graded_at: 30 })],
      excusedAt: 40,
    });
    const state = (at: number) => stateOfItem(item('handed_in;score>=50%'), factsAsOf(facts, at, 0)).state;
    expect([4, 7, 15, 30, 40].map(state)).toEqual(['not_started', 'started', 'started', 'done', 'exempt']);
  });
});

describe('the plan', () => {
  const dated = (dueDay: number | null, required = true) => ({ required, dueDay });

  it('goes by due dates, and spreads what has none evenly in outline order', () => {
    expect(planOf([dated(null), dated(null)], { start: 0, end: 10 }, 0)).toEqual([5, 10]);
    expect(planOf([dated(3), dated(null, false), dated(null)], { start: 0, end: 10 }, 0)).toEqual([3, null, 10]);
  });

  it('has nothing for what has no date in a course without an end, and nothing for what is not required', () => {
    expect(planOf([dated(null), dated(4)], { start: 0, end: null }, 0)).toEqual([null, 4]);
    expect(planOf([dated(4, false)], { start: 0, end: 10 }, 0)).toEqual([null]);
    expect(planOf([], { start: null, end: null }, 0)).toEqual([]);
  });

  it('runs from one’s own beginning where nothing is dated', () => {
    expect(planOf([dated(null), dated(null)], { start: 0, end: 100 }, 50)).toEqual([75, 100]);
    expect(planOf([dated(10), dated(null)], { start: 0, end: 100 }, 50)).toEqual([10, 100]);
  });
});

describe('the pace', () => {
  const course = { start: 0, end: 69 };
  const plan = Array.from({ length: 10 }, (_, week) => week * 7 + 6);

  it('mixes two weeks of plan into the last 28 counted days', () => {
    // One a week is planned; four were done in the last four weeks: (4 + 2) / 42 days.
    const doneDays = [8, 15, 22, 29];
    const pace = paceOf({ plan, doneDays, today: 34, course, skipped: [] });
    expect(pace).toMatchObject({ planned: 5, behind: 1 });
    expect(pace.perWeek).toBeCloseTo(1);
    expect(pace.weeksBehind).toBeCloseTo(1);
    expect(pace.finishDay).toBe(34 + 42);
  });

  it('leaves breaks out, and does not divide by nothing', () => {
    const doneDays = [1, 2];
    const skipped = [[3, 30]] as const;
    expect(paceOf({ plan, doneDays, today: 34, course, skipped }).perWeek).toBeGreaterThan(
      paceOf({ plan, doneDays, today: 34, course, skipped: [] }).perWeek,
    );
    expect(paceOf({ plan: [], doneDays: [], today: 5, course, skipped: [] })).toMatchObject({
      behind: null,
      finishDay: null,
    });
    expect(paceOf({ plan: [null, null], doneDays: [], today: 5, course, skipped: [] }).finishDay).toBeNull();
    expect(paceOf({ plan: [5], doneDays: [4], today: 6, course, skipped: [] }).finishDay).toBeNull();
  });

  it('is drawn by week, with nothing done in weeks to come', () => {
    const points = paceByWeek({ plan, doneDays: [3, 10], today: 16, course });
    expect(points.slice(0, 4)).toEqual([
      { day: 6, planned: 1, done: 1 },
      { day: 13, planned: 2, done: 2 },
      { day: 20, planned: 3, done: 2 },
      { day: 27, planned: 4, done: null },
    ]);
    expect(points.at(-1)!.planned).toBe(10);
  });

  it('has words', () => {
    expect([null, 0, 1, -2].map(sayBehind)).toEqual([
      'no plan to go by',
      'level with plan',
      '1 item behind plan',
      '2 items ahead of plan',
    ]);
    expect([weeksLeft(10, 24, []), weeksLeft(10, 24, [[11, 17]]), weeksLeft(10, null, [])]).toEqual([2, 1, null]);
  });
});

describe('progress', () => {
  const of = (state: 'not_started' | 'started' | 'done' | 'exempt', more = {}) => ({
    required: true,
    unitId: 1,
    state: { state, doneAt: state === 'done' ? 5 : null },
    ...more,
  });

  it('is done of required items that are not exempt', () => {
    expect(progressOf([of('done'), of('started'), of('exempt'), of('done', { required: false })])).toEqual({
      done: 1,
      required: 2,
      share: 0.5,
      completedAt: null,
      isBegun: true,
    });
    expect(progressOf([of('exempt')])).toMatchObject({ required: 0, share: null, completedAt: null });
    expect(progressOf([]).share).toBeNull();
  });

  it('never is above what is required, whatever the states', () => {
    const states = fc.constantFrom('not_started', 'started', 'done', 'exempt' as const);
    fc.assert(
      fc.property(fc.array(fc.record({ state: states, required: fc.boolean() })), (rows) => {
        const { done, required, completedAt } = progressOf(
          rows.map(({ state, required: is }) => of(state as 'done', { required: is })),
        );
        expect(done).toBeLessThanOrEqual(required);
        expect(completedAt !== null).toBe(required > 0 && done === required);
      }),
    );
  });

  it('says when a course is certified: all done, and the pass override met', () => {
    const whole = { completedAt: 5, isBegun: true };
    expect(courseStatus({ completedAt: null, isBegun: false }, 50, null)).toBe('not_started');
    expect(courseStatus({ completedAt: null, isBegun: true }, null, 90)).toBe('under_way');
    expect([courseStatus(whole, 50, 49.9), courseStatus(whole, 50, 50), courseStatus(whole, null, 90)]).toEqual([
      'completed',
      'certified',
      'completed',
    ]);
  });

  it('counts units that are left, and those that plan has behind them', () => {
    const items = [
      of('done'),
      of('done'),
      of('started', { unitId: 2 }),
      of('not_started', { unitId: 3 }),
      of('started', { unitId: null }),
    ];
    expect(milestonesOf(items, [1, 5, 9, 30, null], 10)).toEqual({ units: 3, left: 2, planned: 2 });
  });
});
