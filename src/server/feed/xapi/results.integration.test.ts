import { randomUUID } from 'node:crypto';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { JsonObject } from '@/core/feed/xapi/values';
import { readResult } from '@/core/feed/xapi/result';
import { rawTransaction } from '@/data/db';
import { storeStatements } from '@/data/feed/xapi/statements';
import { checkAll } from '@/server/check';
import { learnerCourse } from '@/server/completion/learner-course';
import { recalculate } from '@/server/drift/recalculate';
import { changes } from '@/server/grades/changes-list';
import { questions } from '@/server/grades/questions-list';
import { SYSTEM_VIEWER } from '@/server/system-viewer';
import { bringIn, smallRuntime, type TestRuntime } from '@/server/testing';
import { takeWaiting } from './take';

const OUTLINE = `course,item_id,item,kind,required,points,done_when
DRY,D1,Film,video,yes,,watched>=80%
DRY,D2,Quiz,quiz,yes,20,handed_in;score>=50%
`;
const HOME = 'https://campus.example/courses/DRY';
let runtime: TestRuntime;
let sourceId: number;

beforeEach(async () => {
  runtime = await smallRuntime();
  await bringIn(runtime, 'outline', OUTLINE);
  sourceId = (await runtime.db('source').first('id'))!.id;
});
afterEach(async () => {
  await recalculate(runtime);
  expect((await checkAll(runtime)).problems).toEqual([]);
  await runtime.close();
});

const said = (verb: string, time: string, more: JsonObject = {}, object = `${HOME}/D2`): JsonObject => ({
  id: randomUUID(),
  actor: { mbox: 'mailto:l1@learner.example' },
  verb: { id: `http://adlnet.gov/expapi/verbs/${verb}` },
  object: { id: object },
  timestamp: `2026-11-20T${time}Z`,
  ...more,
});
const store = (...bodies: JsonObject[]) =>
  rawTransaction(runtime.db, (raw) =>
    storeStatements(
      raw,
      bodies.map((body) => ({ uuid: String(body.id), body })),
      { sourceId, zone: runtime.zone, now: runtime.clock.now() },
    ),
  );
const item = async (id: string) => {
  const { page } = await learnerCourse(runtime, SYSTEM_VIEWER, 'L1', 'DRY');
  return page.items.find((one) => one.item.externalId === id)!;
};
const scored = (raw: number, max?: number): JsonObject => ({
  result: { score: max === undefined ? { raw } : { raw, max } },
});

describe('results of statements', () => {
  it('are attempts, live, whatever the order in which they come', async () => {
    await store(said('passed', '10:20:00', scored(16, 20)));
    expect((await item('D2')).attempts).toMatchObject([{ started_at: null, score: 16, points: 20 }]);
    await store(
      said('attempted', '10:00:00'),
      said('attempted', '12:00:00'),
      said('failed', '12:30:00', { result: { score: { scaled: 0.3 } } }),
    );
    const { attempts, state } = await item('D2');
    expect(
      attempts.map(({ started_at, submitted_at, score }) =>
        [started_at, submitted_at, score].map((at) =>
          at && at > 1000 ? new Date(at).toISOString().slice(11, 16) : at,
        ),
      ),
    ).toEqual([
      ['10:00', '10:20', 16],
      ['12:00', '12:30', 6],
    ]);
    expect(state.state).toBe('done');
    // The same attempts in a file are the same attempts, and its scores go before.
    await bringIn(
      runtime,
      'results',
      'learner_id,course,item_id,attempt,score,points,graded_at\nL1,DRY,D2,2,8,20,2026-11-21T10:00:00Z\n',
    );
    expect((await item('D2')).attempts.map(({ score }) => score)).toEqual([16, 8]);
    expect((await changes(runtime, SYSTEM_VIEWER, { course: 'DRY' })).rows[0]).toMatchObject({ old: 6, score: 8 });
  });

  it('that are voided are gone, and a score in raw points goes by the item’s', async () => {
    const wrong = said('scored', '10:30:00', scored(3));
    await store(said('completed', '10:00:00'), wrong);
    expect((await item('D2')).attempts).toMatchObject([{ score: 3, points: null }]);
    expect((await item('D2')).counting).toMatchObject({ share: 0.15 });
    await store({ ...said('voided', '11:00:00'), object: { objectType: 'StatementRef', id: wrong.id } });
    expect((await item('D2')).attempts).toMatchObject([{ score: null }]);
    expect((await item('D2')).state.left).toEqual(['not graded yet, 50 % needed']);
  });

  it('of questions are answers, of the item that holds them', async () => {
    const answered = (time: string, response: string, success: boolean) =>
      said(
        'answered',
        time,
        { result: { response, success }, context: { contextActivities: { parent: [{ id: `${HOME}/D2` }] } } },
        'https://campus.example/q/q1',
      );
    await store(said('attempted', '10:00:00'), answered('10:05:00', 'A', false), said('completed', '10:10:00'));
    await store(said('attempted', '11:00:00'), answered('11:05:00', 'B', true));
    const asked = async (attempts: string) =>
      (await questions(runtime, SYSTEM_VIEWER, { course: 'DRY', attempts })).rows[0].figures;
    expect(await asked('first')).toMatchObject({ n: 1, facility: 0, answers: [{ answer: 'A' }] });
    expect(await asked('last')).toMatchObject({ facility: 1, answers: [{ answer: 'B' }] });
  });

  it('say how much of a film was watched, and a completion is all of it', async () => {
    const watched = (time: string, progress: number) =>
      said(
        'progressed',
        time,
        { result: { extensions: { 'https://w3id.org/xapi/cmi5/result/extensions/progress': progress } } },
        `${HOME}/D1`,
      );
    await store(watched('10:10:00', 55));
    expect((await item('D1')).state.left).toEqual(['watched 55 of 80 %']);
    await store(watched('10:20:00', 40), watched('10:30:00', 85));
    expect((await item('D1')).state).toMatchObject({ state: 'done', doneAt: Date.parse('2026-11-20T10:30:00Z') });
    await store({
      ...said('completed', '12:00:00', { result: { completion: true } }, `${HOME}/D1`),
      actor: { mbox: 'mailto:l2@learner.example' },
    });
    expect(await runtime.db('watched').where('share', 1)).toHaveLength(1);
    // Of a film nobody makes attempts.
    expect(await runtime.db('attempt')).toEqual([]);
  });

  it('of somebody who comes with a later roster are taken with them', async () => {
    await store({ ...said('passed', '10:20:00', scored(12, 20)), actor: { mbox: 'mailto:l77@learner.example' } });
    expect(await runtime.db('attempt')).toEqual([]);
    await bringIn(
      runtime,
      'roster',
      'learner_id,given_name,family_name,email,course,group,enrolled_on\nL77,Ulf,Zeal,l77@learner.example,DRY,A,2026-09-28\n',
    );
    await takeWaiting(runtime);
    const { page } = await learnerCourse(runtime, SYSTEM_VIEWER, 'L77', 'DRY');
    expect(page.means.on_graded_work).toBe(60);
  });
});

describe('what a statement says of a result', () => {
  const read = (result: JsonObject, more: JsonObject = {}) =>
    readResult({ ...said('scored', '10:00:00'), result, ...more });
  it.each([
    [{ score: { raw: 7, max: 10 } }, { score: 7, points: 10, scaled: null }],
    [{ score: { raw: 60, min: 50, max: 100 } }, { score: 10, points: 50 }],
    [{ score: { raw: -3 } }, { score: 0, points: null }],
    [{ score: { scaled: -0.5 } }, { score: null, scaled: 0 }],
    [{ score: { raw: 'x' } }, { score: null, scaled: null }],
    [{ duration: 'PT1H30M2.5S' }, { durationMs: 5_402_500 }],
    [{ duration: 'P1W' }, { durationMs: 604_800_000 }],
    [{ duration: 'P1Y' }, { durationMs: null }],
    [{ extensions: { 'https://x.example/progress': 0.4 } }, { progress: 0.4 }],
    [{ extensions: { 'https://x.example/progress': 140 } }, { progress: 1 }],
    [{ extensions: { 'https://x.example/progress': -1 } }, { progress: null }],
    [
      { response: 'B', success: true, completion: false },
      { response: 'B', success: true, completion: false },
    ],
  ])('%j', (result, expected) => {
    expect(read(result as JsonObject)).toMatchObject(expected);
  });
});
