import { describe, expect, it } from 'vitest';
import { USUAL_WORKING_HOURS } from '../access/when';
import { dayFromDate, startOfDay } from '../time/zone';
import { byDrift, byWatch, rankBy, type Cohort, type Seen } from './cohort';
import { recallCurve } from './curve';
import { ENOUGH_OF_SUBGROUP, recallBySubgroup } from './subgroups';
import { quietFor } from './cohort';
import { DEFAULT_SETTING, wholeSetting } from '../drift/setting';
import { FACTORS } from '../drift/model';
import { studyTime, visitLength } from './study-time';
import type { TrialLearner } from './replay';

const left = (id: number): TrialLearner => ({ id, left: true, lastDay: 50 });
const stayed = (id: number): TrialLearner => ({ id, left: false, lastDay: 98 });

/** `count` leavers of whom `reached` are listed in time, and as many who stayed of whom `alarmed` are listed. */
function part(count: number, reached: number, alarmed: number): { learners: TrialLearner[]; listings: number[][] } {
  const numbers = Array.from({ length: count }, (_, i) => i);
  return {
    learners: [...numbers.map(left), ...numbers.map(stayed)],
    listings: [...numbers.map((i) => (i < reached ? [40] : [])), ...numbers.map((i) => (i < alarmed ? [40] : []))],
  };
}

describe('parts of those a rule was tried on', () => {
  it('have their own reach and false alarms, and are marked where they fare worse', () => {
    const [good, bad] = [part(60, 55, 3), part(40, 4, 30)];
    const learners = [...good.learners, ...bad.learners];
    const found = recallBySubgroup(learners, [...good.listings, ...bad.listings], (place) => (place < 120 ? 'A' : 'B'));
    expect(found.map(({ name, learners: all, leavers }) => [name, all, leavers])).toEqual([
      ['A', 120, 60],
      ['B', 80, 40],
    ]);
    const [a, b] = found;
    expect([a.recall!.value, b.recall!.value]).toEqual([55 / 60, 0.1]);
    expect([a.falseAlarms!.value, b.falseAlarms!.value]).toEqual([0.05, 0.75]);
    expect([a.findsFewer, a.alarmsMore, b.findsFewer, b.alarmsMore]).toEqual([false, false, true, true]);
    expect(b.recall!.low!).toBeLessThanOrEqual(0.1);
    expect(b.recall!.high!).toBeGreaterThanOrEqual(0.1);
  });

  it('tell nothing under ten leavers, and leave out whoever is in none', () => {
    const few = part(ENOUGH_OF_SUBGROUP - 1, 9, 0);
    const [only] = recallBySubgroup(few.learners, few.listings, () => 'A');
    expect(only).toMatchObject({ recall: null, falseAlarms: null, findsFewer: false, alarmsMore: false });
    expect(recallBySubgroup(few.learners, few.listings, () => null)).toEqual([]);
    expect(recallBySubgroup([], [], () => 'A')).toEqual([]);
    const one = part(ENOUGH_OF_SUBGROUP, 5, 0);
    expect(recallBySubgroup(one.learners, one.listings, () => 'A')[0].recall!.value).toBe(0.5);
  });
});

describe('when somebody studies', () => {
  const at = (date: string, hour: number) => ({
    start: startOfDay(dayFromDate(date)!, 'Europe/Dublin') + hour * 3.6e6,
  });
  const time = (...visits: { start: number }[]) => studyTime(visits, USUAL_WORKING_HOURS, 'Europe/Dublin');

  it('is where more than half of the visits begin, by the clock of the programme', () => {
    expect(time()).toBeNull();
    expect(time(at('2026-11-24', 9))).toBe('mostly in working hours');
    expect(time(at('2026-11-21', 9), at('2026-11-22', 23), at('2026-11-24', 9))).toBe('mostly at weekends');
    expect(time(at('2026-11-24', 23), at('2026-11-25', 2))).toBe('mostly at night');
    expect(time(at('2026-11-24', 19))).toBe('mostly in the evening');
    expect(time(at('2026-11-24', 7))).toBe('at other times');
    // Half and half is neither.
    expect(time(at('2026-11-24', 9), at('2026-11-21', 9))).toBe('at other times');
  });
});

describe('how long somebody stays', () => {
  it('is by half of their visits or more, each counted once', () => {
    const length = (...minutes: number[]) => visitLength(minutes.map((one) => ({ ms: one * 60_000 })));
    expect(length()).toBeNull();
    expect(length(9, 200)).toBe('mostly short visits');
    expect(length(10, 200, 3)).toBe('mostly longer visits');
  });
});

const NONE = FACTORS.map(() => null);
const seen = (place: number, missing: number | null, more: Partial<Seen> = {}): Seen => ({
  place,
  values: FACTORS.map(({ name }) => (name === 'missing' ? missing : null)),
  byAnybody: FACTORS.map(({ name }) => name === 'missing'),
  elapsed: 0.5,
  without: null,
  absence: { hasCome: true, days: 1 },
  ...more,
});

describe('rules', () => {
  const order = (rule: (one: Seen) => number | null, ...all: Seen[]) =>
    rankBy([{ day: 6, week: 1, seen: all }], rule)[0].ranked;

  it('are the Watch’s now: by drift, then the longest gone, without who is away, never started or has finished', () => {
    const everybody = [
      seen(0, null, { values: NONE, absence: { hasCome: true, days: 3 } }),
      seen(1, 0.2),
      seen(2, 0.9),
      seen(3, 0.9, { absence: { hasCome: true, days: 14 } }),
      seen(4, 0.9, { absence: { hasCome: false, days: 7 } }),
      seen(5, 0.9, { without: 'finished' }),
      seen(6, 0.9, { without: 'early', absence: { hasCome: false, days: 6 } }),
    ];
    expect(order(byWatch(DEFAULT_SETTING), ...everybody)).toEqual([2, 1, 6, 0]);
    const later = wholeSetting({ parts: { away: 20, never: 7, contacted: 28 } });
    expect(order(byWatch(later), ...everybody)).toEqual([2, 3, 1, 6, 0]);
    expect(order(byDrift(DEFAULT_SETTING), ...everybody)).toEqual([2, 3, 4, 1]);
  });

  it('reach no fewer the more people a week there are, beside quiet and chance', async () => {
    const learners = [
      ...Array.from({ length: 8 }, (_, i) => left(i)),
      ...Array.from({ length: 12 }, (_, i) => stayed(i)),
    ];
    const weeks = Array.from({ length: 10 }, (_, week) => ({
      day: 7 * week + 6,
      week: week + 1,
      seen: learners.map(({ left: leaves }, place) => seen(place, leaves && week > 3 ? 0.9 : 0.1 + place / 100)),
    }));
    const cohort: Cohort = { learners, weeks };
    const curve = await recallCurve([cohort], [byDrift(DEFAULT_SETTING), quietFor(3)], async () => undefined);
    expect(curve.people).toEqual([1, 2, 3, 4, 6, 8, 12, 16]);
    const values = curve.rules[0].map(({ value }) => value!);
    expect(values).toEqual([...values].sort((a, b) => a - b));
    expect(values.at(-1)).toBe(1);
    // Nobody is quiet here.
    expect(curve.rules[1].every(({ value }) => value === 0)).toBe(true);
    expect(curve.quiet.every(({ value }) => value === 0)).toBe(true);
    expect(curve.chance[0]!).toBeLessThan(curve.chance.at(-1)!);
    const stop = () => Promise.reject(new Error('enough'));
    await expect(recallCurve([cohort], [byDrift(DEFAULT_SETTING)], stop)).rejects.toThrow('enough');
  });
});
