import { describe, expect, it } from 'vitest';
import fc from 'fast-check';
import { standInEmail, standInId, standInName, standInPhone, standsFor } from './stand-ins';

describe('stand-ins', () => {
  it('are the same each time, differ from person to person, and lead back under their own key alone', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 0xffffffff }), fc.string(), (id, key) => {
        const text = standInId(key, id);
        expect(standInId(key, id)).toBe(text);
        expect(standsFor(key, text)).toBe(id);
      }),
    );
    const ids = Array.from({ length: 20_000 }, (_, id) => standInId('a key', id + 1));
    expect(new Set(ids).size).toBe(ids.length);
    expect(standInId('another key', 1)).not.toBe(ids[0]);
  });

  it('have names that rarely meet', () => {
    const names = Array.from({ length: 300 }, (_, id) => Object.values(standInName('a key', id + 1)).join(' '));
    expect(new Set(names).size).toBeGreaterThan(295);
    expect(names[0]).toMatch(/^[A-Z][a-z]+ [A-Z][a-z]+ \d+$/);
  });

  it('have an address and a number that can reach nobody', () => {
    for (const id of [1, 2, 300, 0xffffffff]) {
      expect(standInEmail('a key', id)).toBe(`${standInId('a key', id)}@hidden.example`);
      expect(standInPhone('a key', id)).toMatch(/^\+44 7700 900\d{3}$/);
      expect(standInPhone('a key', id)).toBe(standInPhone('a key', id));
    }
  });

  it.each(['', 'L20417', 'c-', 'c-0000', 'c-zzzzzzz', 'c-uuuuuuu'])('%j stands for nobody', (text) => {
    expect(standsFor('a key', text)).toBeNull();
  });
});
