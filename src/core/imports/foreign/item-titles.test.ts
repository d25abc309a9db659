import { describe, expect, it } from 'vitest';
import { likeTitles, withoutKind, withoutShared } from './item-titles';

describe('titles of items', () => {
  it.each([
    [
      ['Knots (score)', 'Walls and gaps (score)'],
      ['Knots', 'Walls and gaps'],
    ],
    [
      ['DRY Knots points', 'DRY Walls points'],
      ['Knots', 'Walls'],
    ],
    [
      ['Quiz 1', 'Quiz 2'],
      ['Quiz 1', 'Quiz 2'],
    ],
    [
      ['Week 1 quiz', 'Week 2 quiz'],
      ['Week 1 quiz', 'Week 2 quiz'],
    ],
    [
      ['Knots', 'Knots again'],
      ['Knots', 'Knots again'],
    ],
    [['Knots (score)'], ['Knots (score)']],
    [[], []],
  ])('%j without what all share: %j', (titles, bare) => expect(withoutShared(titles)).toEqual(bare));

  it('lose the name of their kind', () => {
    expect(['Quiz: Knots', 'Prova: nodi', 'Knots: a start', 'Quiz 1'].map(withoutKind)).toEqual([
      'Knots',
      'nodi',
      null,
      null,
    ]);
  });

  it('are proposed where they are like another', () => {
    const known = ['Knots and hitches', 'Walls', 'Knots and hitchings'].map((title) => ({ title }));
    expect(likeTitles('Quiz: Knots & hitches', known).map(({ title }) => title)).toEqual([
      'Knots and hitches',
      'Knots and hitchings',
    ]);
    expect(likeTitles('Batter frames', known)).toEqual([]);
  });
});
