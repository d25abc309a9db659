import { describe, expect, it } from 'vitest';
import { byNeed, byPart, partOf, type Placed, type Tried } from './order';

const one = (more: Partial<Placed> = {}): Placed => ({
  band: 1,
  score: 40,
  gone: 3,
  never: null,
  tried: null,
  ...more,
});
const tried = (more: Partial<Tried> = {}): Tried => ({ answered: false, isDue: false, backDay: null, ...more });

describe('the parts of the Watch', () => {
  it('are away from 14 counted days without access on, and never started from 7', () => {
    expect([13, 14, 400].map((gone) => partOf(one({ gone }), 100))).toEqual(['now', 'away', 'away']);
    expect([6, 7].map((never) => partOf(one({ gone: null, never }), 100))).toEqual(['now', 'never']);
    // Never in one course, and in another the other day: they have started.
    expect(partOf(one({ gone: 2, never: 60 }), 100)).toBe('now');
    // Nobody knows, or they have finished.
    expect(partOf(one({ gone: null }), 100)).toBe('now');
    expect(partOf(one({ gone: 20 }), 100, { away: 21, never: 7, contacted: 28 })).toBe('now');
  });

  it('give up their place while one waits for what was tried', () => {
    for (const more of [{}, { gone: 30 }, { gone: null, never: 30 }, { band: 2 as const }])
      expect(partOf(one({ ...more, tried: tried() }), 100)).toBe('contacted');
  });

  it('wait no longer once they answer or the day of a follow-up comes', () => {
    expect(partOf(one({ tried: tried({ answered: true }) }), 100)).toBe('now');
    expect(partOf(one({ gone: 15, tried: tried({ isDue: true }) }), 100)).toBe('away');
  });

  it('wait no longer when they came back and are adrift again a week later', () => {
    const back = (backDay: number | null, band: Placed['band']) =>
      partOf(one({ band, tried: tried({ backDay }) }), 100);
    expect([back(94, 2), back(93, 2), back(93, 1), back(null, 2)]).toEqual(['contacted', 'now', 'contacted', 'contacted']);
  });
});

describe('the order within a part', () => {
  const named = (order: (a: Placed, b: Placed) => number, ...list: Placed[]) =>
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
    const away = [one({ gone: 20 }), one({ gone: 41 }), one({ gone: 20, score: 90, band: 2 })];
    expect(named(byPart('away'), ...away)).toEqual([1, 2, 0]);
    expect(named(byPart('never'), one({ never: 9, gone: null }), one({ never: 10, gone: null }))).toEqual([1, 0]);
  });
});
