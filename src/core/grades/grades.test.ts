import { describe, expect, it } from 'vitest';
import { defaultEdges, onScale, readScale, scoreBand, writeScale } from './bands';
import { feedbackParts, feedbackText, storedFeedback } from './feedback';
import { meansOf, sayMeans, type GradedItem } from './means';
import { patternOf, theilSen } from './pattern';
import { answersOf, correlation, questionStatistics, type Answer } from './questions';
import { gainOf, spreadOf, tenths } from './spread';

const item = (share: number | null, more: Partial<GradedItem> = {}): GradedItem => ({
  category: 'Quizzes',
  points: 10,
  share,
  resultPoints: null,
  isOverdue: false,
  isExempt: false,
  ...more,
});
const QUIZZES = [{ name: 'Quizzes', weight: 40 }];
const BOTH = [...QUIZZES, { name: 'Assignments', weight: 60 }];

describe('the three means', () => {
  it('are of what is graded, with what is overdue at 0, and with everything at 0', () => {
    const items = [item(0.8), item(null, { isOverdue: true }), item(null, { points: 20 })];
    expect(meansOf(items, QUIZZES)).toEqual({ on_graded_work: 80, if_missing_scores_0: 40, of_whole_course: 20 });
  });

  it('weigh categories that have anything graded, however their weights add up', () => {
    const items = [item(0.5), item(1, { category: 'Assignments', points: 100 })];
    expect(meansOf(items, BOTH).on_graded_work).toBeCloseTo(80);
    expect(
      meansOf(items, [
        { name: 'Quizzes', weight: 2 },
        { name: 'Assignments', weight: 3 },
      ]).on_graded_work,
    ).toBeCloseTo(80);
    expect(meansOf([item(0.5)], BOTH).on_graded_work).toBeCloseTo(50);
  });

  it('count nothing of a category of weight 0, and every point alike where there are no weights', () => {
    const items = [item(0.5), item(1, { category: 'Assignments', points: 30 })];
    expect(
      meansOf(items, [
        { name: 'Quizzes', weight: 0 },
        { name: 'Assignments', weight: 60 },
      ]).on_graded_work,
    ).toBe(100);
    const none = [
      { name: 'Quizzes', weight: null },
      { name: 'Assignments', weight: 0 },
    ];
    expect(meansOf(items, none).on_graded_work).toBeCloseTo((100 * 35) / 40);
    expect(meansOf([item(0.5, { category: null })], BOTH).on_graded_work).toBeNull();
  });

  it('leave out what is exempt, and keep points above the maximum', () => {
    expect(meansOf([item(1.2), item(null, { isExempt: true, isOverdue: true })], QUIZZES)).toEqual({
      on_graded_work: 120,
      if_missing_scores_0: 120,
      of_whole_course: 120,
    });
    expect(meansOf([], QUIZZES).of_whole_course).toBeNull();
    expect(meansOf([item(0.5, { points: null, resultPoints: 8 })], QUIZZES).on_graded_work).toBe(50);
  });

  it('take attendance as a category once something is counted', () => {
    expect(meansOf([item(0.5)], QUIZZES, { weight: 40, rate: 1 }).on_graded_work).toBeCloseTo(75);
    expect(meansOf([item(0.5)], QUIZZES, { weight: 40, rate: null }).on_graded_work).toBe(50);
    expect(meansOf([], [], { weight: 20, rate: 0.9 }).on_graded_work).toBeCloseTo(90);
    expect(meansOf([item(0.5, { category: null })], [], { weight: 20, rate: 1 }).on_graded_work).toBeCloseTo(60);
  });

  it('say why they differ', () => {
    const means = { on_graded_work: 80, if_missing_scores_0: 40, of_whole_course: 20 };
    expect(sayMeans(means, { graded: 1, overdue: 1, toCome: 2 })).toBe(
      'The first is the mean of 1 graded assignment; the second counts 1 overdue as 0; the third counts all that is not earned yet as 0, 2 more.',
    );
    expect(sayMeans({ ...means, on_graded_work: null }, { graded: 0, overdue: 0, toCome: 3 })).toBe(
      'Nothing is graded yet.',
    );
  });
});

describe('a pattern', () => {
  it.each([
    [[40, 60], null],
    [[80, 45, 30], 'steady low'],
    [[80, 70, 30, 75], 'blip'],
    [[80, 70, 75, 30], 'blip'],
    [[30, 75, 80, 82], 'blip'],
    [[60, 65, 70], 'rising'],
    [[90, 80, 71], 'falling'],
    [[70, 72, 71, 70], 'steady'],
    // Two of the last three below, although the mean is not.
    [[100, 40, 45, 100], 'steady low'],
  ] as const)('of %j is %s', (scores, pattern) => {
    expect(patternOf(scores, 50)).toBe(pattern);
  });

  it('is not moved by one score out of line, and looks at the last six for a slope', () => {
    expect(theilSen([50, 55, 60, 65, 0, 75])).toBeCloseTo(5);
    expect(theilSen([5])).toBe(0);
    expect(patternOf([100, 100, 100, 60, 63, 66, 69, 72, 75], 50)).toBe('rising');
  });
});

describe('score bands and scales', () => {
  it('begin at the pass mark and at the middle between it and 100', () => {
    expect(defaultEdges(60)).toEqual({ getting: 60, secure: 80 });
    expect([79.9, 80, 59, 60].map((score) => scoreBand(score, defaultEdges(60)))).toEqual([
      'getting there',
      'secure',
      'not yet',
      'getting there',
    ]);
  });

  it('are read and written as people type them', () => {
    const scale = readScale('50 C, 85 A\n70 B+');
    expect(scale && writeScale(scale)).toBe('85 A, 70 B+, 50 C');
    expect([onScale(84.9, scale!), onScale(49, scale!), onScale(null, scale!), onScale(100, scale!)]).toEqual([
      'B+',
      null,
      null,
      'A',
    ]);
    expect([readScale('A 85'), readScale('101 A'), readScale('50 A, 50 B'), readScale('')]).toEqual([
      null,
      null,
      null,
      [],
    ]);
  });
});

describe('the spread of scores', () => {
  it('is not drawn under five', () => {
    expect(spreadOf([10, 20, 30, 40])).toEqual({ n: 4, mean: 25, median: 25, low: null, high: null });
    expect(spreadOf([10, 20, 30, 40, 50])).toMatchObject({ low: 20, high: 40 });
    expect(spreadOf([])).toMatchObject({ n: 0, mean: null, median: null });
    expect(tenths([0, 9.9, 10, 99, 100, 120])).toEqual([2, 1, 0, 0, 0, 0, 0, 0, 0, 3]);
  });

  it('is a gain over those alone who have both', () => {
    expect(
      gainOf([
        [40, 70],
        [null, 90],
        [60, 50],
        [30, null],
      ]),
    ).toEqual({ n: 2, before: 50, after: 60, gain: 10 });
    expect(gainOf([[null, 90]])).toEqual({ n: 0, before: null, after: null, gain: null });
  });
});

describe('questions', () => {
  const answer = (learnerId: number, questionId: number, score: number, more: Partial<Answer> = {}): Answer => ({
    learnerId,
    questionId,
    attempt: 1,
    answer: score > 0 ? 'B' : 'A',
    rightAnswer: 'B',
    score,
    points: 1,
    ...more,
  });

  it('are missed most first, with what was answered', () => {
    const answers = [answer(1, 1, 1), answer(1, 2, 0), answer(2, 1, 1), answer(2, 2, 1), answer(3, 1, 1)];
    const [hard, easy] = questionStatistics(answers);
    expect(hard).toMatchObject({ questionId: 2, n: 2, facility: 0.5, discrimination: null });
    expect(easy).toMatchObject({ questionId: 1, n: 3, facility: 1 });
    expect(hard.answers).toEqual([
      { answer: 'A', count: 1, isRight: false, learnerIds: [1] },
      { answer: 'B', count: 1, isRight: true, learnerIds: [2] },
    ]);
  });

  it('tell apart by the correlation with the rest of the attempt, from ten answers on', () => {
    const answers = Array.from({ length: 10 }, (_, l) => [
      answer(l, 1, l >= 5 ? 1 : 0),
      answer(l, 2, l >= 5 ? 1 : 0),
      answer(l, 3, 1),
    ]).flat();
    const figures = new Map(questionStatistics(answers).map((one) => [one.questionId, one]));
    expect(figures.get(1)!.discrimination).toBeCloseTo(1);
    // Everybody had it right: no variance, no reading.
    expect(figures.get(3)!.discrimination).toBeNull();
    expect(questionStatistics(answers.filter(({ learnerId }) => learnerId < 9))[0].discrimination).toBeNull();
    expect([correlation([], []), correlation([1, 2], [2, 1])]).toEqual([null, -1]);
  });

  it('take each learner’s first or last attempt, and know when a right answer has changed', () => {
    const answers = [
      answer(1, 1, 0),
      answer(1, 1, 1, { attempt: 3 }),
      answer(2, 1, 0, { attempt: 2, rightAnswer: 'C' }),
    ];
    expect(answersOf(answers, 'first').map(({ attempt, learnerId }) => [learnerId, attempt])).toEqual([
      [1, 1],
      [2, 2],
    ]);
    expect(answersOf(answers, 'last').map(({ attempt }) => attempt)).toEqual([3, 2]);
    expect(questionStatistics(answersOf(answers, 'first'))[0].rightAnswers).toEqual(['B', 'C']);
  });
});

const clean = (feedback: string) => feedbackParts(storedFeedback(feedback));

describe('feedback', () => {
  it('keeps paragraphs and links of HTML, and nothing that runs', () => {
    const html =
      '<p>Good <b>work</b>.</p><script>alert(1)</script><p onclick="x()">See <a href="https://campus.example/a?b=1&amp;c=2">the sheet</a>.</p>';
    expect(clean(html)).toEqual([
      [{ text: 'Good work.' }],
      [{ text: 'See ' }, { text: 'the sheet', href: 'https://campus.example/a?b=1&c=2' }, { text: '.' }],
    ]);
    expect(feedbackText(storedFeedback(html))).toBe('Good work.\n\nSee the sheet.');
  });

  it('makes no link of another sort of address, and none of marks that somebody sends', () => {
    expect(clean('<a href="javascript:alert(1)">press</a>')).toEqual([[{ text: 'press' }]]);
    expect(clean('<a href="data:text/html,x">y</a>')).toEqual([[{ text: 'y' }]]);
    expect(clean('⟦x⟫javascript:alert(1)⟧ <i>a</i>')).toEqual([[{ text: 'xjavascript:alert(1) a' }]]);
    expect(clean('<img src=x onerror=alert(1)><iframe src="//x"></iframe>')).toEqual([]);
  });

  it('leaves plain text as it is, with bare addresses as links', () => {
    expect(clean('5 < 6 & so on\n\nhttps://campus.example/x.')).toEqual([
      [{ text: '5 < 6 & so on' }],
      [{ text: 'https://campus.example/x', href: 'https://campus.example/x' }, { text: '.' }],
    ]);
    expect(feedbackText(null)).toBeNull();
  });
});
