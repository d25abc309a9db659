import { describe, expect, it } from 'vitest';
import { byNeed, byPart, partOf, type WatchFacts, type Tried } from './order';

const one = (more: Partial<WatchFacts> = {}): WatchFacts => ({
  band: 1,
  score: 40,
  daysAway: 3,
  never: null,
  tried: null,
  ...more,
});
const tried = (more: Partial<Tried> = {}): Tried => ({ answered: false, isDue: false, backDay: null, ...more });

describe('the parts of the Watch', () => {
  it('are away from 14 counted days without access on, and never started from 7', () => {
    expect([13, 14, 400].map((gone) => partOf(one({ daysAway: gone }), 100))).toEqual(['now', 'away', 'away']);
    expect([6, 7].map((never) => partOf(one({ daysAway: null, never }), 100))).toEqual(['now', 'never']);
    // Never in one course, and in another the other day: they have started.
    expect(partOf(one({ daysAway: 2, never: 60 }), 100)).toBe('now');
    // Nobody knows, or they have finished.
    expect(partOf(one({ daysAway: null }), 100)).toBe('now');
    expect(partOf(one({ daysAway: 20 }), 100, { away: 21, never: 7, contacted: 28 })).toBe('now');
  });

  it('give up their place while one waits for what was tried', () => {
    for (const more of [{}, { gone: 30 }, { gone: null, never: 30 }, { band: 2 as const }])
      expect(partOf(one({ ...more, tried: tried() }), 100)).toBe('contacted');
  });

  it('wait no longer once they answer or the day of a follow-up comes', () => {
    expect(partOf(one({ tried: tried({ answered: true }) }), 100)).toBe('now');
    expect(partOf(one({ daysAway: 15, tried: tried({ isDue: true }) }), 100)).toBe('away');
  });

  it('wait no longer when they came back and are adrift again a week later', () => {
    const back = (backDay: number | null, band: WatchFacts['band']) =>
      partOf(one({ band, tried: tried({ backDay }) }), 100);
    expect([back(94, 2), back(93, 2), back(93, 1), back(null, 2)]).toEqual([
      'contacted',
      'now',
      'contacted',
      'contacted',
    ]);
  });
});

describe('the order within a part', () => {
  const named = (order: (a: WatchFacts, b: WatchFacts) => number, ...list: WatchFacts[]) =>
    [...list].sort(order).map((each) => list.indexOf(each));

  it('is by band, then by drift, and rise or recent contacts do not enter it; no reading last', () => {
    const list = [
      one({ band: null, score: null }),
      one({ band: 0, score: 39 }),
      one({ band: 2, score: 58 }),
      one({ score: 59 }),
    ];
    expect(named(byNeed, ...list)).toEqual([2, 3, 1, 0]);
    expect(byNeed(one(), one())).toBe(0);
    expect(byPart('now')).toBe(byNeed);
    expect(byPart('contacted')).toBe(byNeed);
  });

  it('is the longest gone first of those who are gone, and by need where that is the same', () => {
    const away = [one({ daysAway: 20 }), one({ daysAway: 41 }), one({ daysAway: 20, score: 90, band: 2 })];
    expect(named(byPart('away'), ...away)).toEqual([1, 2, 0]);
    expect(named(byPart('never'), one({ never: 9, daysAway: null }), one({ never: 10, daysAway: null }))).toEqual([
      1, 0,
    ]);
  });
});
