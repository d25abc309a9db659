import { describe, expect, it } from 'vitest';
import { behind } from './behind';
import { falling } from './falling';
import { late } from './late';
import { marks } from './marks';
import { missing } from './missing';
import { noHandIn } from './no-hand-in';
import { say, sayWhole } from './sentences';
import { facts } from './testing';
import { layOutWork } from './work';
import type { LearnerItem, DueItem, WorkFacts } from './work-facts';

const DAY = 86_400_000;
const dueItem = (itemId: number, dueDay: number | null, opensDay: number | null = 0): DueItem => ({
  itemId,
  dueDay,
  dueAt: dueDay === null ? null : dueDay * DAY + DAY - 1,
  opensDay,
});
const own = (itemId: number, handedInDay: number | null, more: Partial<LearnerItem> = {}): LearnerItem => ({
  itemId,
  dueAt: null,
  dueDay: null,
  extendedDay: null,
  excusedDay: null,
  handedInAt: handedInDay === null ? null : handedInDay * DAY + 1000,
  handedInDay,
  results: [],
  ...more,
});
const result = (day: number, share: number, points = 10) => ({ results: [{ day, share, points }] });

function work(dueItems: DueItem[], mine: LearnerItem[], more: Partial<WorkFacts> = {}): WorkFacts {
  const places = new Map(dueItems.map(({ itemId }, place) => [itemId, place]));
  return {
    ...layOutWork(dueItems, mine, places, { tracks: [], doneDays: [], required: 0, passMark: 50, saidByPlatform: [] }),
    ...more,
  };
}
const weekly = [1, 2, 3, 4, 5, 6].map((n) => dueItem(n, 60 + n * 6));

describe('missing work', () => {
  const assess = (mine: LearnerItem[], day = 100, skipped: [number, number][] = []) =>
    missing.assess(facts({ day, work: work(weekly, mine), skipped }), undefined);

  it('is the share of what was due in the last 21 counted days that did not come', () => {
    // Due on 84, 90 and 96; 78 lies before.
    expect(assess([])).toMatchObject({ value: 1, says: { missing: 3, of: 3 } });
    expect(assess([own(4, 80), own(5, 99)])!.value).toBeCloseTo(1 / 3 / 0.6);
    expect(assess([own(4, 80), own(5, 99), own(6, 90)])!.value).toBe(0);
    // A break draws what was due before it into the stretch.
    expect(assess([], 100, [[85, 95]])!.says).toMatchObject({ of: 5 });
  });

  it('looks at what was known: a hand-in, an extension and an excusal count from their day', () => {
    expect(assess([own(6, 100)], 99)!.says).toMatchObject({ missing: 3 });
    const extended = own(6, null, { dueAt: 110 * DAY, dueDay: 110, extendedDay: 98 });
    expect(assess([extended])!.says).toMatchObject({ of: 2 });
    expect(assess([extended], 97)!.says).toMatchObject({ of: 4 });
    expect(assess([own(6, null, { excusedDay: 98 })])!.says).toMatchObject({ of: 2 });
  });

  it('cannot be judged where nothing was due', () => {
    expect(assess([], 200)).toBeNull();
    expect(assess([], 65)).toBeNull();
    expect(assess([], 66)!.says).toMatchObject({ missing: 1, of: 1 });
    expect(missing.assess(facts({}), undefined)).toBeNull();
  });

  it('leaves out what falls due later on a day that is not over', () => {
    const due = 66 * DAY + DAY - 1;
    const at = (now: number | null, mine: LearnerItem[] = [], dueItems = weekly) =>
      missing.assess(facts({ day: 66, dueTo: { day: 66, at: now }, work: work(dueItems, mine) }), undefined)?.says
        .missing ?? null;
    expect([at(due - 1), at(due), at(null)]).toEqual([null, 1, 1]);
    // An assignment that is planned for the day, and has no date, has no minute: looking back finds what was read.
    const planned = [{ ...dueItem(1, 66), dueAt: null }];
    expect([at(due - DAY, [], planned), at(due, [], planned), at(null, [], planned)]).toEqual([1, 1, 1]);
    const extended = own(1, null, { dueAt: due + 1, dueDay: 66, extendedDay: 60 });
    expect([at(due, [extended]), at(due + 1, [extended])]).toEqual([null, 1]);
  });
});

describe('behind plan', () => {
  const plan = Array.from({ length: 12 }, (_, week) => 6 + week * 7);
  const assess = (done: number, day = 48) =>
    behind.assess(
      facts({
        day,
        courseStart: 0,
        courseEnd: 83,
        work: { ...work([], []), tracks: [{ needs: [], plan, done: Array.from({ length: done }, (_, i) => i) }] },
      }),
      undefined,
    );
  it('is in weeks of the plan, and nothing for somebody ahead', () => {
    expect(assess(6)!.says).toMatchObject({ weeks: 1, done: 6, planned: 7 });
    expect(assess(6)!.value).toBeCloseTo(0.5);
    expect([assess(7)!.value, assess(12)!.value, assess(0)!.value]).toEqual([0, 0, 1]);
    expect(sayWhole(assess(9)!.says)).toBe('2 weeks ahead of plan · 9 done, 7 planned by now');
  });
  it('goes by what the platform says where there is no plan of ours, for fourteen days', () => {
    const say = (saidByPlatform: [number, number][], more = {}) =>
      behind.assess(
        facts({ day: 48, courseStart: 0, courseEnd: 100, work: { ...work([], []), saidByPlatform }, ...more }),
        undefined,
      );
    const assessed = say([
      [10, 50],
      [42, 28],
    ])!;
    expect(assessed).toMatchObject({ value: 1, says: { weeks: 2, says: 28, planned: 42 } });
    expect(sayWhole(assessed.says)).toBe('2 weeks behind plan · the platform says 28 %, 42 % at an even pace');
    expect([say([[42, 60]])!.value, say([[33, 0]]), say([[9, 0]], { day: 12 })]).toEqual([0, null, null]);
    expect(say([[33, 0]], { skipped: [[40, 40]] })!.value).toBe(1);
    expect(say([[42, 0]], { enrolledDay: 30 })!.says).toMatchObject({ weeks: 1.7, planned: 17 });
    expect([say([[49, 0]]), say([[42, 0]], { courseEnd: null })]).toEqual([null, null]);
    const ours = { ...work([], []), saidByPlatform: [[48, 0]] as const, tracks: [{ needs: [], plan, done: plan }] };
    expect(behind.assess(facts({ day: 48, courseEnd: 83, work: ours }), undefined)!.value).toBe(0);
  });
  it('needs four items planned by now', () => {
    expect([assess(0, 26), assess(0, 27)?.value]).toEqual([null, 1]);
  });
});

describe('marks', () => {
  const assess = (shares: number[], day = 100) =>
    marks.assess(
      facts({
        day,
        work: work(
          weekly,
          shares.map((share, i) => own(i + 1, 80, result(90 + i, share))),
        ),
      }),
      undefined,
    );
  it('are held against the pass mark and 25 points', () => {
    expect(assess([0.75, 0.75])!.value).toBe(0);
    expect(assess([0.6, 0.6])!.value).toBeCloseTo(0.5);
    expect(assess([0.2, 0.3])!.value).toBe(1);
    expect(say(assess([0.6, 0.5])!.says).fact).toBe('55 % on graded work');
  });
  it('count from when they were given, weighed by points, and need two', () => {
    expect([assess([0.2]), assess([0.2, 0.2, 0.9], 90)]).toEqual([null, null]);
    expect(assess([0.2, 0.2, 0.9], 91)!.says).toMatchObject({ mean: 20, graded: 2 });
    const weighed = work(weekly, [own(1, 80, result(90, 1, 10)), own(2, 80, result(90, 0.5, 90))]);
    expect(marks.assess(facts({ work: weighed }), undefined)!.says).toMatchObject({ mean: 55 });
  });
  it('take the best of several, and leave out what somebody was excused from', () => {
    const better = {
      results: [
        { day: 90, share: 0.2, points: 10 },
        { day: 95, share: 0.8, points: 10 },
      ],
    };
    const mine = [own(1, 80, better), own(2, 80, result(90, 0.8)), own(3, 80, { ...result(90, 0), excusedDay: 92 })];
    expect(marks.assess(facts({ day: 99, work: work(weekly, mine) }), undefined)!.says).toMatchObject({
      mean: 80,
      graded: 2,
    });
    expect(marks.assess(facts({ day: 91, work: work(weekly, mine) }), undefined)!.says).toMatchObject({
      graded: 3,
      mean: 33,
    });
  });
});

describe('falling marks', () => {
  const member = (shares: number[], day = 100) =>
    facts({
      day,
      work: work(
        weekly,
        shares.map((share, i) => own(i + 1, 80, result(90 + i, share))),
      ),
    });
  it('are held beside everyone’s mean on the assignment: a hard assignment is no fall', () => {
    const hard = [member([0.8, 0.8, 0.8, 0.4, 0.4]), member([0.8, 0.8, 0.8, 0.4, 0.4])];
    const everyone = falling.ofGroup!(hard);
    expect(everyone).toEqual([0.8, 0.8, 0.8, 0.4, 0.4]);
    expect(falling.assess(hard[0], everyone)!.value).toBeCloseTo(0);
    const drop = member([0.8, 0.8, 0.8, 0.3, 0.3]);
    expect(falling.assess(drop, everyone)!.value).toBeCloseTo(10 / 15);
    expect(sayWhole(falling.assess(drop, everyone)!.says)).toContain('Marks fell 10 points more than the group’s');
  });
  it('need five that are known', () => {
    expect(falling.assess(member([0.1, 0.1, 0.1, 0.1]), [])).toBeNull();
    expect(falling.assess(member([0.8, 0.8, 0.8, 0.4, 0.4], 93), [1, 1, 1, 1, 1])).toBeNull();
    expect(falling.ofGroup!([])).toEqual([]);
  });
});

describe('no hand-in', () => {
  const assess = (mine: LearnerItem[], day: number, more = {}) =>
    noHandIn.assess(facts({ day, work: work(weekly, mine), ...more }), undefined);
  it('counts days since the last hand-in, leaving breaks out', () => {
    expect(assess([own(1, 70), own(2, 80)], 90)!.value).toBeCloseTo(5 / 11);
    expect([assess([own(1, 85)], 90)!.value, assess([own(1, 70)], 90)!.value]).toEqual([0, 1]);
    expect(assess([own(2, 80)], 90, { skipped: [[82, 88]] })!.value).toBe(0);
    // A hand-in of tomorrow is not known today.
    expect(assess([own(1, 70), own(2, 80)], 79)!.says).toMatchObject({ days: 9 });
  });
  it('of somebody without any runs from when there was something and they were there', () => {
    const some = [dueItem(1, 30, 10)];
    const of = (day: number, enrolledDay: number) =>
      noHandIn.assess(facts({ day, enrolledDay, work: work(some, []) }), undefined);
    expect(of(9, 0)).toBeNull();
    expect(of(15, 0)!.says).toMatchObject({ name: 'never_handed_in', days: 5 });
    expect(of(30, 25)!.says).toMatchObject({ days: 5 });
    expect(noHandIn.assess(facts({}), undefined)).toBeNull();
  });
});

describe('late work', () => {
  const assess = (days: number[], day = 200) =>
    late.assess(
      facts({
        day,
        work: work(
          weekly,
          days.map((handed, i) => own(i + 1, handed)),
        ),
      }),
      undefined,
    );
  it('is the late share of the last four hand-ins that had a date', () => {
    // Due on 66, 72, 78, 84, 90 and 96.
    expect(assess([67])).toBeNull();
    expect(assess([66, 72])!.value).toBe(0);
    expect(assess([67, 72])!.value).toBeCloseTo(0.5 / 0.75);
    expect(assess([67, 74, 79, 84, 90, 96])!.says).toMatchObject({ late: 1, of: 4 });
    expect(assess([67, 74, 79, 84], 75)!.says).toMatchObject({ late: 2, of: 2 });
  });
});
