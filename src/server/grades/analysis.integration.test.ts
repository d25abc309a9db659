import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { View } from '@/data/view';
import { openView } from '../request/view';
import { SYSTEM_VIEWER } from '../system-viewer';
import { bringIn, smallRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { analyseCategories, analyseItem, gainsOf, gradedItems, gradesInView, groupsCompared } from './analysis';
import { changes } from './changes-list';
import { paperOf, questions, questionsOfCourse, sayDiscrimination } from './questions-list';

/** Quizzes in two units, the first with a check before it and one after. */
const OUTLINE = `course,course_title,starts_on,ends_on,unit,item_id,item,kind,required,due_at,points,category,weight,stage
DRY,Drystone Walling,2026-09-28,2026-12-21,Week 1,B1,Before,quiz,no,,10,Checks,0,before
DRY,Drystone Walling,2026-09-28,2026-12-21,Week 1,D2,Stones,quiz,yes,2026-10-05T12:00:00Z,20,Quizzes,40,
DRY,Drystone Walling,2026-09-28,2026-12-21,Week 1,E1,After,quiz,no,,10,Checks,0,after
DRY,Drystone Walling,2026-09-28,2026-12-21,Week 2,D3,Hearting,quiz,yes,2026-10-12T12:00:00Z,20,Quizzes,40,
DRY,Drystone Walling,2026-09-28,2026-12-21,Week 2,D4,Wall,assignment,yes,2026-12-12T12:00:00Z,100,Sheets,60,
`;

const RESULTS = `learner_id,course,item_id,attempt,started_at,submitted_at,score,points,graded_at,grader,feedback
L1,DRY,B1,1,,2026-09-29T10:00:00Z,3,10,2026-09-29T10:00:00Z,,
L1,DRY,E1,1,,2026-10-03T10:00:00Z,8,10,2026-10-03T10:00:00Z,,
L2,DRY,B1,1,,2026-09-29T10:00:00Z,5,10,2026-09-29T10:00:00Z,,
L4,DRY,E1,1,,2026-10-03T10:00:00Z,10,10,2026-10-03T10:00:00Z,,
L1,DRY,D2,1,,2026-10-01T10:00:00Z,8,20,2026-10-01T10:00:00Z,,
L1,DRY,D2,2,,2026-10-02T10:00:00Z,18,20,2026-10-02T10:00:00Z,,
L1,DRY,D2,3,,2026-10-04T10:00:00Z,14,20,2026-10-04T10:00:00Z,,
L2,DRY,D2,1,,2026-10-04T10:00:00Z,20,20,2026-10-04T10:00:00Z,,
L1,DRY,D3,1,,2026-10-11T10:00:00Z,10,20,2026-10-11T10:00:00Z,,
L4,DRY,D3,1,2026-10-11T10:00:00Z,,,,,,
L5,DRY,D2,1,,2026-10-02T10:00:00Z,1,20,2026-10-02T10:00:00Z,,
`;

/** Twelve papers of three questions: q1 goes with the rest, q3 goes against it, q2 everybody has right. */
const RESPONSES = [
  'learner_id,course,item_id,attempt,question_id,question,answer,right_answer,score,points,answered_at',
  ...Array.from({ length: 12 }, (_, i) => {
    const good = i < 6;
    const line = (question: string, isRight: boolean) =>
      `P${i},DRY,D2,1,${question},What is ${question}?,${isRight ? 'A' : 'B'},A,${isRight ? 1 : 0},1,2026-10-0${1 + (i % 4)}T10:00:00Z`;
    return [line('q1', good), line('q2', true), line('q3', i % 6 === 0), line('q4', good)].join('\n');
  }),
  'P11,DRY,D2,2,q1,What is q1?,A,A,1,1,2026-10-06T10:00:00Z',
  '',
].join('\n');

let runtime: TestRuntime;
let view: View;
beforeAll(async () => {
  runtime = await smallRuntime();
  await bringIn(runtime, 'outline', OUTLINE);
  await bringIn(runtime, 'results', RESULTS);
  view = await openView(runtime, SYSTEM_VIEWER, { course: 'DRY' });
});
afterAll(() => runtime.close());

const itemOf = async (id: string) =>
  (await gradedItems(runtime, view.segment.courseId!)).find(({ externalId }) => externalId === id)!;

describe('one item', () => {
  it('has each learner’s first, best and last attempt, and what counts in tenths', async () => {
    const { learners, tenths, spread, ...means } = analyseItem(await gradesInView(runtime, view), await itemOf('D2'));
    const own = learners.find(({ enrolled }) => enrolled.learner_id === 'L1')!;
    expect(own).toMatchObject({ first: 40, best: 90, last: 70, percent: 90, attempts: 3, shares: [40, 90, 70] });
    expect(means).toMatchObject({ first: 70, best: 95, last: 85, attempts: 4 });
    expect(tenths).toEqual([0, 0, 0, 0, 0, 0, 0, 0, 0, 2]);
    expect(spread).toEqual({ n: 2, mean: 95, median: 95, low: null, high: null });
  });

  it('that nobody has a grade on is empty, not nought', async () => {
    const { spread, first, best, last, attempts } = analyseItem(await gradesInView(runtime, view), await itemOf('D4'));
    expect({ first, best, last, attempts, ...spread }).toEqual({
      first: null,
      best: null,
      last: null,
      attempts: 0,
      n: 0,
      mean: null,
      median: null,
      low: null,
      high: null,
    });
  });
});

describe('categories', () => {
  it('say who practised in a period and how well, down to each learner, the weakest first', async () => {
    const rows = await gradesInView(runtime, view);
    const of = (period: { from?: number; to?: number }) =>
      analyseCategories(rows, period).find(({ name }) => name === 'Quizzes')!;
    const whole = of({});
    expect(whole).toMatchObject({ weight: 40, items: 2, practised: 2 });
    expect(whole.practisedMean).toBeCloseTo((90 + 100 + 50) / 3);
    expect(whole.learners.map(({ enrolled, mean, graded }) => [enrolled.learner_id, mean, graded])).toEqual([
      ['L1', 70, 2],
      ['L2', 100, 1],
    ]);
    // The best attempt of the days asked for, and a beginning is no practice.
    const days = of({ from: Date.parse('2026-10-04T00:00:00Z'), to: Date.parse('2026-10-05T00:00:00Z') });
    expect(days).toMatchObject({ practised: 2, practisedMean: 85 });
    expect(of({ from: Date.parse('2026-11-01T00:00:00Z') })).toMatchObject({ practised: 0, practisedMean: null });
  });

  it('a unit’s gain is of those who have both of its checks', async () => {
    expect(gainsOf(await gradesInView(runtime, view))).toEqual([
      { unit: 'Week 1', before_item: 'Before', after_item: 'After', n: 1, before: 30, after: 80, gain: 50 },
    ]);
  });
});

describe('groups', () => {
  it.each([
    ['course', undefined, ['graded work']],
    ['category', 'Quizzes', ['Quizzes']],
    ['item', 'D2', ['Stones']],
  ])('are compared by %s', async (by, of, whats) => {
    const { rows } = await groupsCompared(runtime, SYSTEM_VIEWER, { course: 'DRY', by, of });
    expect([...new Set(rows.map(({ what }) => what))]).toEqual(whats);
    expect(rows.map(({ group }) => group)).toEqual(['Group A', 'Group B', 'everybody']);
    const everybody = rows.at(-1)!;
    expect(everybody.n).toBe(rows[0].n + rows[1].n);
  });

  it('refuse what is none, and a mentor compares their own group alone', async () => {
    await expect(groupsCompared(runtime, SYSTEM_VIEWER, { course: 'DRY', by: 'height' })).rejects.toMatchObject({
      errors: [{ field: 'by' }],
    });
    await expect(groupsCompared(runtime, SYSTEM_VIEWER, { course: 'DRY', by: 'item', of: 'X' })).rejects.toThrow(
      'No such category or item',
    );
    const mentor = await viewerByEmail(runtime, 'mentor@staff.example');
    const { rows } = await groupsCompared(runtime, mentor, { course: 'DRY' });
    expect(rows.map(({ group }) => group)).toEqual(['Group A']);
  });
});

describe('the history of grades', () => {
  const ask = async (values: Record<string, string>) =>
    (await changes(runtime, SYSTEM_VIEWER, { course: 'DRY', ...values })).rows;

  it('is read between two times, by learner and by item, page by page', async () => {
    expect(await ask({ learner: 'L1', item: 'D2' })).toHaveLength(3);
    expect(await ask({ from: '2026-10-04', to: '2026-10-05' })).toHaveLength(2);
    const seen: number[] = [];
    let cursor: string | null = null;
    do {
      const page: Awaited<ReturnType<typeof changes>> = await changes(runtime, SYSTEM_VIEWER, {
        course: 'DRY',
        limit: '3',
        ...(cursor ? { cursor } : {}),
      });
      seen.push(...page.rows.map(({ id }) => id));
      cursor = page.next;
    } while (cursor);
    expect(new Set(seen).size).toBe(seen.length);
    expect(seen).toHaveLength((await ask({ limit: '1000' })).length);
  });

  it('refuses a period that ends before it begins, and somebody out of view', async () => {
    await expect(ask({ from: '2026-10-05', to: '2026-10-04' })).rejects.toThrow();
    const one = await viewerByEmail(runtime, 'one@staff.example');
    await expect(changes(runtime, one, { learner: 'L1' })).rejects.toThrow('No such learner');
  });
});

describe('questions', () => {
  beforeAll(async () => {
    const people = Array.from({ length: 12 }, (_, i) => `P${i},Given${i},Family,DRY,A,2026-09-28`);
    await bringIn(
      runtime,
      'roster',
      ['learner_id,given_name,family_name,course,group,enrolled_on', ...people, ''].join('\n'),
    );
    await bringIn(runtime, 'responses', RESPONSES);
  });

  it('are read over the first attempts, the one most missed first', async () => {
    const { rows } = await questions(runtime, SYSTEM_VIEWER, { course: 'DRY' });
    expect(rows.map(({ question, figures }) => [question.question_id, figures.n, figures.facility])).toEqual([
      ['q3', 12, 2 / 12],
      ['q1', 12, 0.5],
      ['q4', 12, 0.5],
      ['q2', 12, 1],
    ]);
    const [q3, q1, , q2] = rows.map(({ figures }) => figures.discrimination);
    expect(q2).toBeNull();
    // The rest of q1 is q4, which goes with it, and q3, which has a variance of 1/6 · 5/6 and goes with neither.
    expect(q1).toBeCloseTo(0.5 / Math.sqrt(0.25 + 5 / 36));
    expect(Math.abs(q3!)).toBeLessThan(0.01);
  });

  it('are read over the last attempts as well, and one learner’s paper holds both', async () => {
    const { rows } = await questions(runtime, SYSTEM_VIEWER, { course: 'DRY', attempts: 'last' });
    expect(rows.find(({ question }) => question.question_id === 'q1')!.figures.facility).toBeCloseTo(7 / 12);
    const [learner] = await runtime.db('learner').where('external_id', 'P11').pluck('id');
    const paper = await paperOf(runtime, view, await questionsOfCourse(runtime, view), learner);
    expect(paper).toHaveLength(5);
  });

  it.each([
    [null, 9, 'no reading under 10 answers (9 answers)'],
    [null, 10, 'everybody answered alike'],
    [-0.16, 20, 'those who did well elsewhere missed it more often: look at its key'],
    [-0.15, 20, 'says little of who knows more'],
    [0, 20, 'says little of who knows more'],
    [0.15, 20, 'separates a little'],
    [0.3, 20, 'separates well'],
  ])('that tell apart by %s over %i answers say: %s', (value, n, words) => {
    expect(sayDiscrimination(value, n)).toBe(words);
  });
});
