import { describe, expect, it } from 'vitest';
import { foldRuns } from './fold';
import { IDLE_GAP } from './visits';

const row = (who: string, at: number) => ({ who, at });

describe('foldRuns', () => {
  it('finds none in no rows', () => expect(foldRuns([])).toEqual([]));

  it('folds one person’s rows into one run, also with another’s between them', () => {
    const runs = foldRuns([row('a', 900), row('b', 800), row('a', 700), row('b', 600)]);
    expect(runs.map(({ who, first, last, rows }) => [who, first, last, rows.length])).toEqual([
      ['a', 700, 900, 2],
      ['b', 600, 800, 2],
    ]);
  });

  it('goes on over a pause of the idle gap and begins anew over one millisecond more', () => {
    expect(foldRuns([row('a', IDLE_GAP), row('a', 0)])).toHaveLength(1);
    expect(foldRuns([row('a', IDLE_GAP + 1), row('a', 0)])).toHaveLength(2);
  });
});
