import { describe, expect, it } from 'vitest';
import { commonReasons, inOrderApart, sharesOf, type ReasonOnList } from './apart';

const has = (...factors: string[]): ReasonOnList[] => factors.map((factor, index) => ({ factor, points: 20 - index }));

describe('what sets somebody apart', () => {
  it('is not what nearly everybody has, whatever its points', () => {
    const people = [has('missing', 'quiet'), has('missing'), has('missing', 'sessions'), has('missing'), has('quiet')];
    expect(sharesOf(people).get('missing')).toBe(0.8);
    expect(commonReasons(people)).toEqual(['missing']);
    expect(inOrderApart(people[0], commonReasons(people)).map(({ factor }) => factor)).toEqual(['quiet', 'missing']);
    expect(inOrderApart(people[1], commonReasons(people)).map(({ factor }) => factor)).toEqual(['missing']);
  });

  it('is told of enough people alone, and a reason without points is none', () => {
    expect(commonReasons([has('missing'), has('missing'), has('missing'), has('missing')])).toEqual([]);
    expect(commonReasons(Array.from({ length: 9 }, () => [{ factor: 'missing', points: 0 }]))).toEqual([]);
    expect(commonReasons([])).toEqual([]);
  });

  it('goes by points among those that are alike, in the order given where these are equal', () => {
    const reasons = [
      { factor: 'a', points: 3 },
      { factor: 'b', points: 5 },
      { factor: 'c', points: 3 },
    ];
    expect(inOrderApart(reasons, []).map(({ factor }) => factor)).toEqual(['b', 'a', 'c']);
    expect(inOrderApart(reasons, ['b', 'c']).map(({ factor }) => factor)).toEqual(['a', 'b', 'c']);
  });
});
