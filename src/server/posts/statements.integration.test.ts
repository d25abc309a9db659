import { randomUUID } from 'node:crypto';
import { afterEach, beforeEach, expect, it } from 'vitest';
import type { JsonObject } from '@/core/feed/xapi/values';
import { rawTransaction } from '@/data/db';
import { storeStatements } from '@/data/feed/xapi/statements';
import { SYSTEM_VIEWER } from '../system-viewer';
import { bringIn, smallRuntime, type TestRuntime } from '../testing';
import { posts } from './posts-list';

let runtime: TestRuntime;
let sourceId: number;
beforeEach(async () => {
  runtime = await smallRuntime();
  await bringIn(runtime, 'outline', 'course,item_id,item,kind,required\nDRY,D3,Ask anything,discussion,no\n');
  sourceId = (await runtime.db('source').first('id'))!.id;
});
afterEach(() => runtime.close());

const said = (who: string, response: string, more: JsonObject = {}): JsonObject => ({
  id: randomUUID(),
  actor: { mbox: `mailto:${who}@learner.example` },
  verb: { id: 'http://adlnet.gov/expapi/verbs/commented' },
  object: { id: 'https://campus.example/courses/DRY/D3' },
  timestamp: '2026-11-20T10:00:00Z',
  result: { response },
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
const texts = async () =>
  (await posts(runtime, SYSTEM_VIEWER, {})).rows.map(({ text, answered_name }) => [text, answered_name]);

it('statements that carry what was written in a discussion are posts, which answer one another', async () => {
  const first = said('l1', 'Which stone goes first?');
  const context = { statement: { objectType: 'StatementRef', id: String(first.id).toUpperCase() } };
  const answer = said('l2', 'The widest.', { context, timestamp: '2026-11-20T11:00:00Z' });
  // In whatever order they come, and again.
  await store(answer);
  await store(first, answer);
  expect(await texts()).toEqual([
    ['The widest.', 'Ines Marrow'],
    ['Which stone goes first?', null],
  ]);
  // It is no answer to a question of a quiz.
  expect(await runtime.db('response')).toEqual([]);
});

it('one that is voided is gone, and one without words is none', async () => {
  const wrong = said('l1', 'Sorry, wrong course');
  await store(wrong, said('l1', '   ', { timestamp: '2026-11-20T12:00:00Z' }));
  expect(await texts()).toHaveLength(1);
  await store({
    ...said('l1', ''),
    verb: { id: 'http://adlnet.gov/expapi/verbs/voided' },
    object: { objectType: 'StatementRef', id: wrong.id },
  });
  expect(await texts()).toEqual([]);
  expect((await posts(runtime, SYSTEM_VIEWER, { q: 'sorry' })).total).toBe(0);
});
