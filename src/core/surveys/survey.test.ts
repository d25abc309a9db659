import { describe, expect, it } from 'vitest';
import { summarise, summariseParts, type SurveyAnswer } from './survey';

let at = 0;
const by = (learnerId: number | null, answer: string, askedAt = (at += 1)): SurveyAnswer => ({
  learnerId,
  answer,
  askedAt,
});

describe('summarise', () => {
  it('counts each of several answers of one person, of the people who answered', () => {
    const { n, answers } = summarise('choice', [
      by(1, 'By night'),
      by(1, 'At work'),
      by(2, 'At work'),
      by(2, 'At work'),
    ]);
    expect(n).toBe(2);
    expect(answers).toEqual([
      { answer: 'At work', count: 2, share: 1 },
      { answer: 'By night', count: 1, share: 0.5 },
    ]);
  });

  it('counts each answer without a name as a person', () => {
    expect(summarise('choice', [by(null, 'a'), by(null, 'a'), by(1, 'b')])).toMatchObject({
      n: 3,
      anonymous: 2,
      answers: [
        { answer: 'a', count: 2 },
        { answer: 'b', count: 1 },
      ],
    });
  });

  it('gives mean, median and steps in their order, each person on the step they were last asked for', () => {
    const { n, mean, median, answers } = summarise('scale', [
      by(1, '2'),
      by(1, '4'),
      by(2, '10'),
      by(3, '5,0'),
      by(4, '5'),
    ]);
    expect([n, mean, median]).toEqual([4, 6, 5]);
    expect(answers.map(({ answer, count }) => [answer, count])).toEqual([
      ['4', 1],
      ['5', 2],
      ['10', 1],
    ]);
  });

  it('keeps words on a scale as a step without a number', () => {
    expect(summarise('scale', [by(1, 'does not apply'), by(2, '3')])).toMatchObject({ n: 2, mean: 3, median: 3 });
    expect(summarise('scale', [by(1, 'no idea')])).toMatchObject({ n: 1, mean: null, median: null });
  });

  it('gives texts newest first, and none that is empty', () => {
    const { n, texts, answers } = summarise('text', [by(1, 'first'), by(2, '  '), by(3, 'second')]);
    expect([n, texts.map(({ answer }) => answer), answers]).toEqual([2, ['second', 'first'], []]);
  });

  it('says nothing of nobody', () => {
    expect(summarise('choice', [])).toEqual({ n: 0, anonymous: 0, answers: [], mean: null, median: null, texts: [] });
  });
});

describe('summariseParts', () => {
  const of = (group: string | null, people: number, from: number) =>
    Array.from({ length: people }, (_, index) => ({ ...by(from + index, 'yes'), group }));
  const parts = (...answers: ReturnType<typeof of>[]) =>
    summariseParts('choice', answers.flat(), ({ group }) => group).map(({ part, summary }) => [
      part,
      summary?.n ?? null,
    ]);

  it('shows a part where at least five are in it and at least five in all others', () => {
    expect(parts(of('A', 5, 0), of('B', 5, 10))).toEqual([
      ['A', 5],
      ['B', 5],
    ]);
    expect(parts(of('A', 4, 0), of('B', 9, 10))).toEqual([
      ['A', null],
      ['B', null],
    ]);
    expect(parts(of('A', 4, 0), of('B', 9, 10), of('C', 1, 30))).toEqual([
      ['A', null],
      ['B', 9],
      ['C', null],
    ]);
  });

  it('shows no part of a whole of one part, and leaves out who is in none', () => {
    expect(parts(of('A', 20, 0), of(null, 20, 50))).toEqual([['A', null]]);
  });

  it('counts people and not answers', () => {
    const two = of('A', 3, 0).flatMap((one) => [one, { ...one, answer: 'no' }]);
    expect(parts(two, of('B', 9, 10))[0]).toEqual(['A', null]);
  });
});
