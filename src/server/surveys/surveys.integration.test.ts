import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Viewer } from '@/data/scope';
import { InvalidInput, NotFound } from '../request/input';
import { askList, bringIn, counts, testRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { SURVEYS, surveyAnswer } from './surveys-list';

const HEAD = 'survey,asked_at,learner_id,course,question,kind,answer';
const OUTLINE = `course,course_title,unit,item_id,item,kind
DRY,Drystone Walling,Week 1,D1,Stone,page
NET,Net Work,Week 1,N1,Knots,page
`;
/** Group A of DRY has six people of Norrick, B five of Penhallow, NET one of its own. */
const ROSTER = [
  'learner_id,given_name,family_name,organisation,course,group,enrolled_on,status',
  ...Array.from({ length: 6 }, (_, n) => `A${n},Ada,Moss${n},Norrick,DRY,A,2026-09-28,active`),
  ...Array.from({ length: 5 }, (_, n) => `B${n},Bea,Fern${n},Penhallow,DRY,B,2026-09-28,active`),
  'N0,Noa,Reed,,NET,A,2026-09-28,active',
  '',
].join('\n');
const STAFF = `staff_id,given_name,family_name,email,role,scope_kind,scope
S1,Hesper,Vane,lead@staff.example,lead,all,
S2,Mair,Tolland,mentor@staff.example,mentor,group,DRY/A
S3,Jory,Kestle,instructor@staff.example,instructor,course,DRY
S4,Bryn,Ostler,norrick@partner.example,coordinator,organisation,Norrick
`;
const ROWS = [
  ...Array.from(
    { length: 6 },
    (_, n) => `Half way,2026-11-02T10:00:00Z,A${n},DRY,How is the pace?,scale,${n < 3 ? 2 : 4}`,
  ),
  ...Array.from({ length: 5 }, (_, n) => `Half way,2026-11-02T10:00:00Z,B${n},DRY,How is the pace?,scale,5`),
  'Half way,2026-11-02T10:00:00Z,A0,DRY,When do you study?,choice,By night',
  'Half way,2026-11-02T10:00:00Z,A0,DRY,When do you study?,choice,At work',
  'Half way,2026-11-02T10:00:00Z,B0,DRY,When do you study?,choice,At work',
  'Half way,2026-11-02T10:00:00Z,,DRY,When do you study?,choice,At work',
  'Half way,2026-11-02T10:00:00Z,,DRY,When do you study?,choice,At work',
  'Half way,2026-11-02T10:00:00Z,A1,DRY,What is missing?,text,More stone',
  'Half way,2026-11-03T10:00:00Z,,DRY,What is missing?,text,Less rain',
  'Few,2026-11-04T10:00:00Z,,NET,Anything?,text,One',
];

let runtime: TestRuntime;
const viewers: Record<string, Viewer> = {};
beforeAll(async () => {
  runtime = await testRuntime();
  await bringIn(runtime, 'outline', OUTLINE);
  await bringIn(runtime, 'roster', ROSTER);
  await bringIn(runtime, 'staff', STAFF);
  const run = await bringIn(runtime, 'survey-answers', [HEAD, ...ROWS, ''].join('\n'));
  expect(counts(run)).toMatchObject({ state: 'done', accepted: ROWS.length, rejected: 0 });
  for (const [name, email] of Object.entries({
    lead: 'lead@staff.example',
    mentor: 'mentor@staff.example',
    teacher: 'instructor@staff.example',
    partner: 'norrick@partner.example',
  }))
    viewers[name] = await viewerByEmail(runtime, email);
});
afterAll(() => runtime.close());

const ask = async (viewer: string, values = {}, survey = 'Half way') =>
  (await surveyAnswer(runtime, viewers[viewer], survey, values)).data;

describe('a survey', () => {
  it('is listed with who answered', async () => {
    const { rows } = await askList(SURVEYS, runtime, viewers.lead);
    expect(rows).toEqual([
      {
        survey: 'Few',
        questions: 1,
        people: 0,
        anonymous: 1,
        first_asked: '2026-11-04T10:00:00Z',
        last_asked: '2026-11-04T10:00:00Z',
      },
      {
        survey: 'Half way',
        questions: 3,
        people: 11,
        anonymous: 2,
        first_asked: '2026-11-02T10:00:00Z',
        last_asked: '2026-11-03T10:00:00Z',
      },
    ]);
  });

  it('says each question with its counts, in the order of their coming', async () => {
    const [pace, when, missing] = await ask('lead');
    expect(pace).toMatchObject({ question: 'How is the pace?', kind: 'scale', n: 11, anonymous: 0, median: 4 });
    expect(pace.mean).toBeCloseTo((3 * 2 + 3 * 4 + 5 * 5) / 11, 5);
    expect(pace.answers).toEqual([
      { answer: '2', count: 3, share: 0.27273 },
      { answer: '4', count: 3, share: 0.27273 },
      { answer: '5', count: 5, share: 0.45455 },
    ]);
    expect(when).toMatchObject({
      n: 4,
      anonymous: 2,
      answers: [{ answer: 'At work', count: 4, share: 1 }, { count: 1 }],
    });
    expect(missing).toMatchObject({ n: 2, anonymous: 1, texts: ['Less rain', 'More stone'] });
    expect(missing.given).toEqual([
      { learner_id: 'A1', name: 'Ada Moss1', asked_at: '2026-11-02T10:00:00Z', answer: 'More stone' },
    ]);
  });

  it('is parted where at least five answered in a part and five elsewhere, and else says why not', async () => {
    const [pace, when] = await ask('lead', { by: 'group' });
    expect(pace.parts.map(({ part, n, mean }) => [part, n, mean])).toEqual([
      ['DRY/A', 6, 3],
      ['DRY/B', 5, 5],
    ]);
    expect(when.parts).toMatchObject([
      { part: 'DRY/A', n: null, withheld: 'fewer than 5', answers: [] },
      { part: 'DRY/B', n: null, withheld: 'fewer than 5', answers: [] },
    ]);
    const [byOrganisation] = await ask('lead', { by: 'organisation' });
    expect(byOrganisation.parts.map(({ part, n }) => [part, n])).toEqual([
      ['Norrick', 6],
      ['Penhallow', 5],
    ]);
    const [byCourse] = await ask('lead', { by: 'course' });
    expect(byCourse.parts).toMatchObject([{ part: 'DRY', n: null, withheld: 'fewer than 5' }]);
    await expect(ask('lead', { by: 'name' })).rejects.toThrow(InvalidInput);
  });

  it('leaves answers without a name out of a part of people, and of those who do not see the whole course', async () => {
    expect((await ask('lead', { group: 'DRY/A' }))[1]).toMatchObject({ n: 1, anonymous: 0 });
    expect((await ask('mentor'))[1]).toMatchObject({ n: 1, anonymous: 0 });
    expect((await ask('teacher'))[1]).toMatchObject({ n: 4, anonymous: 2 });
    expect((await ask('mentor'))[0].given.every(({ learner_id }) => learner_id?.startsWith('A'))).toBe(true);
  });

  it('withholds a part in which few answered without a name', async () => {
    await bringIn(
      runtime,
      'survey-answers',
      `${HEAD}\nHalf way,2026-11-03T10:00:00Z,,NET,What is missing?,text,Rope\n`,
    );
    const [, , missing] = await ask('lead', { course: 'NET' });
    expect(missing).toMatchObject({ n: 1, withheld: 'fewer than 5', texts: [] });
    expect((await ask('lead'))[2]).toMatchObject({ n: 3, texts: ['Less rain', 'Rope', 'More stone'] });
  });

  it('gives a partner the counts of their own people and no words', async () => {
    const [pace, , missing] = await ask('partner');
    expect(pace.n).toBe(6);
    expect(missing.texts).toEqual(['(for staff alone)']);
    expect(JSON.stringify(await ask('partner', { by: 'organisation' }))).not.toContain('Penhallow');
    await expect(ask('partner', {}, 'Few')).rejects.toThrow(NotFound);
    expect((await askList(SURVEYS, runtime, viewers.partner)).rows.map(({ survey }) => survey)).toEqual(['Half way']);
  });

  it('hides names and words where names are hidden', async () => {
    const hidden = await surveyAnswer(runtime, { ...viewers.lead, standInKey: 'a key' }, 'Half way', {});
    expect(JSON.stringify(hidden)).not.toMatch(/Ada|Moss|More stone/);
  });
});

describe('taking answers', () => {
  it('adds nothing the second time, of somebody or of nobody', async () => {
    const again = await bringIn(runtime, 'survey-answers', [HEAD, ...ROWS, ''].join('\n'));
    expect(counts(again)).toMatchObject({ accepted: 0, duplicate: ROWS.length });
    // One more of nobody's than there are is one more.
    const row = 'Half way,2026-11-02T10:00:00Z,,DRY,When do you study?,choice,At work';
    expect(counts(await bringIn(runtime, 'survey-answers', [HEAD, row, row, row, ''].join('\n')))).toMatchObject({
      accepted: 1,
      duplicate: 2,
    });
  });

  it('says what is wrong with a row', async () => {
    const rows = [
      'Half way,2026-11-02T10:00:00Z,X9,DRY,Pace?,scale,3',
      'Half way,2026-11-02T10:00:00Z,N0,DRY,Pace?,scale,3',
      'Half way,2026-11-02T10:00:00Z,A0,XXX,Pace?,scale,3',
      'Half way,2026-11-02T10:00:00Z,A0,DRY,How is the pace?,choice,3',
      'Half way,2026-11-02T10:00:00Z,A0,DRY,Pace?,scale,',
      'Half way,2026-11-02T10:00:00Z,A0,DRY,Pace?,stars,3',
      ',2026-11-02T10:00:00Z,A0,DRY,Pace?,scale,3',
    ];
    const run = await bringIn(runtime, 'survey-answers', [HEAD, ...rows, ''].join('\n'));
    expect(counts(run)).toMatchObject({ accepted: 0, rejected: 7 });
    expect(await ask('lead')).toHaveLength(3);
  });
});
