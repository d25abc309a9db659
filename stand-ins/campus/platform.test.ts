import { describe, expect, it } from 'vitest';
import { statementFault } from '@/core/feed/xapi/statement';
import { verbWord } from '@/core/feed/xapi/read';
import type { Json } from '@/core/feed/xapi/values';
import { seeded } from '../../demo/random';
import { Platform, type Campus } from './platform';

const campus: Campus = {
  people: ['a', 'b', 'c', 'd', 'e', 'f'].map((name) => ({ mail: `${name}@learner.example`, course: 'DRY' })),
  items: [
    { id: 'D 1', course: 'DRY', title: 'Stone', kind: 'page' },
    { id: 'D2', course: 'DRY', title: 'Film', kind: 'video' },
    { id: 'D3', course: 'DRY', title: 'Quiz', kind: 'quiz' },
  ],
};
const now = Date.parse('2026-11-24T09:10:00Z');

describe('the campus stand-in', () => {
  it('says well-formed statements about its own people and items, each once', () => {
    const said = new Platform(campus, seeded(1)).step(now, 300);
    expect(said.length).toBeGreaterThan(250);
    for (const one of said) expect(statementFault(one as unknown as Json)).toBeNull();
    expect(new Set(said.map((one) => one.id)).size).toBe(said.length);
    expect(new Set(said.map((one) => one.object.id))).toContain('https://campus.example/courses/DRY/D%201');
    expect(new Set(said.map((one) => verbWord(one.verb.id)))).toContain('submitted');
  });

  it('has people stop at an item that is broken, until it is mended', () => {
    const platform = new Platform(campus, seeded(2));
    platform.step(now, 50);
    platform.jam(true);
    expect(platform.jammed).toBe('Film');
    const film = (said: ReturnType<Platform['step']>) => said.filter((one) => one.object.id.endsWith('/D2'));
    const stuck = film(platform.step(now, 200));
    expect(stuck.length).toBeGreaterThan(60);
    expect(new Set(stuck.map((one) => verbWord(one.verb.id)))).toEqual(new Set(['opened']));
    platform.jam(false);
    expect(platform.jammed).toBeNull();
    expect(film(platform.step(now, 200)).some((one) => verbWord(one.verb.id) === 'progressed')).toBe(true);
  });

  it('has nothing to say without people', () => {
    expect(new Platform({ people: [], items: campus.items }, seeded(3)).step(now, 5)).toEqual([]);
  });
});
