import { describe, expect, it } from 'vitest';
import { fieldFault } from '../contact/template';
import { GOOD_NEWS, attendedAgain, bestsOf, fallsOf, praiseFor, returnsOf, told, type GoodNewsKind } from './good-news';

describe('coming back and staying', () => {
  it.each([
    ['7 whole days, then 3 days within 7', [1, 9, 12, 15], [{ on: 15, returned: 9, gap: 7 }]],
    ['6 whole days are too few', [1, 8, 9, 10], []],
    ['the third day one too late', [1, 9, 12, 16], []],
    ['two days only', [1, 20, 21], []],
    ['never gone, or never there before', [5, 6, 7], []],
    ['nobody', [], []],
    [
      'twice',
      [1, 9, 10, 11, 30, 31, 32],
      [
        { on: 15, returned: 9, gap: 7 },
        { on: 36, returned: 30, gap: 18 },
      ],
    ],
  ])('%s', (_, days, expected) => expect(returnsOf(days)).toEqual(expected));
});

describe('drift that fell', () => {
  const at = (day: number, before: number, score: number, edge = 30) => ({ day, before, score, edge });
  const days = (...readings: ReturnType<typeof at>[]) => fallsOf(readings).map(({ day }) => day);

  it('is 25 under that of 14 days before and under the first edge', () => {
    expect(days(at(15, 50, 25))).toEqual([15]);
    expect(days(at(15, 50, 25.01))).toEqual([]);
    expect(days(at(15, 90, 30))).toEqual([]);
    expect(days(at(15, 90, 30, 40))).toEqual([15]);
  });

  it('is told once in 28 days', () => {
    expect(
      days(at(15, 80, 10), at(16, 80, 10), at(43, 80, 10), at(44, 80, 10), at(72, 80, 10), at(73, 80, 10)),
    ).toEqual([15, 44, 73]);
  });
});

describe('the best score yet', () => {
  const score = (percent: number, category: string | null = 'Quizzes') => ({ at: 0, percent, category });

  it('is 10 points above the best of at least two before, of its category', () => {
    expect(bestsOf([score(50), score(60), score(70)])).toEqual([{ score: score(70), before: 60 }]);
    expect(bestsOf([score(50), score(60), score(69.9)])).toEqual([]);
    expect(bestsOf([score(50), score(90)])).toEqual([]);
    expect(bestsOf([score(50), score(60, 'Essays'), score(90)])).toEqual([]);
    expect(bestsOf([score(50, null), score(50, null), score(60, null)])).toHaveLength(1);
    expect(bestsOf([score(100 / 3), score(10), score(100 / 3 + 10)])).toHaveLength(1);
  });
});

describe('every session again', () => {
  const credits = (...values: number[]) => values.map((credit, id) => ({ id, credit }));
  it.each([
    [credits(0, 1, 1, 1, 1, 1), [5]],
    [credits(0, 1, 0.75, 1, 0.75, 1, 1), [5]],
    [credits(1, 1, 1, 1, 1, 1), []],
    [credits(0.5, 1, 1, 1, 1, 1), []],
    [credits(0, 1, 1, 0.7, 1, 1), []],
    [credits(1, 1, 1, 1, 1), []],
    [credits(0, 1, 1, 1, 1, 1, 0, 1, 1, 1, 1, 1), [5, 11]],
  ])('%j: %j', (sessions, ids) => expect(attendedAgain(sessions).map(({ id }) => id)).toEqual(ids));
});

describe('what is told of one learner', () => {
  const news = (...all: [GoodNewsKind, number][]) => all.map(([what, on]) => ({ what, on }));
  const chosen = (...all: [GoodNewsKind, number][]) => told(news(...all)).map(({ what, on }) => `${what} ${on}`);

  it('is the first in the list of what falls within seven days, and the next seven days after it', () => {
    expect(chosen(['first_post', 1], ['unit_finished', 7], ['best_yet', 8])).toEqual(['unit_finished 7']);
    expect(chosen(['first_post', 1], ['unit_finished', 8])).toEqual(['first_post 1', 'unit_finished 8']);
    expect(chosen(['first_post', 1], ['unit_finished', 7], ['best_yet', 13], ['best_yet', 14])).toEqual([
      'unit_finished 7',
      'best_yet 14',
    ]);
  });

  it('is of one day and kind the earliest, and nothing of nothing', () => {
    expect(chosen(['unit_finished', 3], ['unit_finished', 1], ['course_finished', 3])).toEqual(['course_finished 3']);
    expect(chosen(['unit_finished', 3], ['unit_finished', 1])).toEqual(['unit_finished 1']);
    expect(chosen()).toEqual([]);
  });
});

describe('praise', () => {
  it.each(GOOD_NEWS.map((what) => [what]))('of %s names the deed in fields that exist, and no label', (what) => {
    const evidence = { unit: 'Week {{1}}', item: 'A {{quiz}}', drift: 12, before: 50 };
    const { subject, body } = praiseFor(what, { course: 'Walls {{x}}', evidence });
    expect(fieldFault(body)).toBeNull();
    expect(fieldFault(subject)).toBeNull();
    expect(body).not.toMatch(/drift|slipping|adrift|12|50/i);
  });
});
