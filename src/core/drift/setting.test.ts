import { describe, expect, it } from 'vitest';
import { FACTORS } from './model';
import { isListed, moveOf, whyMoved, type WatchPosition } from './preview';
import { driftFrom } from './score';
import {
  DEFAULT_SETTING,
  SETTING_NUMBERS,
  changedBetween,
  changesBetween,
  courseSettingOn,
  readOtherwise,
  settingOn,
  wholeSetting,
  type KeptSetting,
} from './setting';

const quietBy = (early: number, late = early) => wholeSetting({ weights: { quiet: { early, late } } });
const kept = (id: number, fromDay: number, setting: KeptSetting['setting'], courseId: number | null = null) => ({
  id,
  fromDay,
  setting,
  courseId,
});

describe('a setting', () => {
  it('holds from its day on, the last one that was kept where several do', () => {
    const [first, second] = [quietBy(20), quietBy(30)];
    const all = [kept(1, 10, first), kept(2, 20, second)];
    expect([9, 10, 19, 20].map((day) => settingOn(all, day))).toEqual([DEFAULT_SETTING, first, first, second]);
    // Kept by a clock that was ahead, and again by one that was put back: what was said last holds.
    const back = [kept(1, 30, first), kept(2, 20, second)];
    expect([29, 30].map((day) => settingOn(back, day))).toEqual([second, second]);
  });

  it('of a course goes before the programme’s, until the course has none of its own again', () => {
    const [own, programme] = [quietBy(1), quietBy(50)];
    const all = [kept(1, 10, own, 7), kept(2, 12, programme), kept(3, 14, null, 7)];
    expect([9, 10, 13, 14].map((day) => courseSettingOn(all, 7, day))).toEqual([DEFAULT_SETTING, own, own, programme]);
    expect(courseSettingOn(all, 8, 13)).toBe(programme);
  });

  it('says of a day whether it was read otherwise than today', () => {
    const all = [kept(1, 10, quietBy(20)), kept(2, 20, quietBy(20, 30), 7)];
    const otherwise = (course: number, day: number) => readOtherwise(all, course, day, 25);
    expect([9, 10, 24, 25].map((day) => otherwise(8, day))).toEqual([true, false, false, false]);
    expect([9, 19, 20].map((day) => otherwise(7, day))).toEqual([true, true, false]);
    // Days of waiting weigh nothing: the same readings come of it.
    const days = [kept(1, 10, { ...DEFAULT_SETTING, parts: { ...DEFAULT_SETTING.parts, contacted: 9 } })];
    expect(readOtherwise(days, 7, 5, 25)).toBe(false);
  });

  it('says when what holds was changed, and nothing once one has gone back', () => {
    const all = [kept(1, 10, quietBy(20)), kept(2, 12, quietBy(30), 7)];
    const changed = (course: number | undefined, before: number, day: number) =>
      changedBetween(all, course, before, day);
    expect([changed(undefined, 5, 9), changed(undefined, 5, 11), changed(undefined, 5, 12)]).toEqual([null, 10, 12]);
    expect([changed(8, 5, 12), changed(7, 11, 12), changed(8, 11, 12)]).toEqual([10, 12, null]);
    expect(changedBetween([...all, kept(3, 13, null, 7), kept(4, 13, DEFAULT_SETTING)], undefined, 5, 13)).toBeNull();
  });

  it('that was kept before a factor came has it by default, and its changes are said', () => {
    const known = wholeSetting({ weights: { quiet: { early: 1, late: 2 } }, edges: { slipping: 20, adrift: 60 } });
    expect(known.weights.missing).toEqual({ early: 20, late: 20 });
    expect(changesBetween(DEFAULT_SETTING, known)).toEqual([
      'Quiet, early 5 → 1',
      'Quiet, late 5 → 2',
      'Slipping from 30 → 20',
    ]);
    expect(changesBetween(known, known)).toEqual([]);
    expect(SETTING_NUMBERS).toHaveLength(2 * FACTORS.length + 4);
  });
});

describe('drift by other weights', () => {
  it('is the weighted mean of what could be judged, and none under 40 % of what anybody could be judged by', () => {
    expect(driftFrom([1, 0.5, null], [30, 10, 20], [true, true, false])).toBeCloseTo(87.5);
    expect(driftFrom([1, null, null], [30, 10, 20], [true, true, true])).toBe(100);
    expect(driftFrom([1, null, null], [19, 10, 20], [true, true, true])).toBeNull();
    expect(driftFrom([null, null], [10, 10], [true, true])).toBeNull();
    // What weighs nothing is no reading.
    expect(driftFrom([1, 1], [0, 0], [true, true])).toBeNull();
    expect(driftFrom([1, 0], [0, 10], [true, true])).toBe(0);
  });
});

describe('who moves', () => {
  const at = (more: Partial<WatchPosition>): WatchPosition => ({ score: 40, band: 1, part: 'now', ...more });

  it('joins or leaves the list of those who are slipping or adrift now', () => {
    expect([at({}), at({ band: 0 }), at({ band: null, score: null }), at({ part: 'away' })].map(isListed)).toEqual([
      true,
      false,
      false,
      false,
    ]);
    expect(moveOf(at({ band: 0 }), at({}))).toBe('joins');
    expect(moveOf(at({}), at({ part: 'away' }))).toBe('leaves');
    expect(moveOf(at({}), at({ band: 2 }))).toBe('moves');
    expect(moveOf(at({ part: 'away' }), at({ part: 'away', score: 90 }))).toBeNull();
  });

  it('is told by the part, and by the reasons that changed most, over all courses', () => {
    const reason = (factor: string, points: number) => ({ factor, points });
    const courses = [
      { before: [reason('quiet', 5), reason('late', 2)], after: [reason('quiet', 12), reason('late', 2.2)] },
      { before: [reason('missing', 20)], after: [] },
    ];
    expect(whyMoved(at({}), at({ part: 'away' }), courses)).toEqual([
      'now → away',
      'Missing work 20 → 0',
      'Quiet 5 → 12',
    ]);
    expect(whyMoved(at({}), at({ band: 2 }), [])).toEqual(['adrift by the edges alone']);
    expect(whyMoved(at({}), at({}), [])).toEqual([]);
  });
});

it('drift is never over 100, whatever the weights add up to in floating point', () => {
  for (let first = 1; first < 40; first += 1) {
    const weights = [first, 7.1, 13.3, 0.7, 29.9];
    const drift = driftFrom([1, 1, 1, 1, 1], weights, [true, true, true, true, true])!;
    expect(drift).toBeCloseTo(100, 9);
    expect(drift).toBeLessThanOrEqual(100);
  }
});
