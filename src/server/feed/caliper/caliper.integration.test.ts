import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { POST } from '@/app/caliper/route';
import { GET, POST as POST_STATEMENTS, PUT } from '@/app/xapi/statements/route';
import type { JsonObject } from '@/core/feed/xapi/values';
import { openLog, readLog } from '@/server/access/access-log';
import { checkAll } from '@/server/check';
import { learnerCourse } from '@/server/completion/learner-course';
import { recalculate } from '@/server/drift/recalculate';
import { SYSTEM_VIEWER } from '@/server/system-viewer';
import { POSTS } from '@/server/posts/posts-list';
import { askList, bringIn } from '@/server/testing';
import { makeCredential, type NewCredential } from '../sources';
import { openDoor, type Door } from '../xapi/testing';

let door: Door;
let sensor: NewCredential;

beforeAll(async () => {
  door = await openDoor({ GET, POST: POST_STATEMENTS, PUT });
  sensor = await makeCredential(door.runtime, SYSTEM_VIEWER, { source: 'sensor', protocol: 'caliper' });
});
afterAll(() => door.close());

const event = (more: JsonObject = {}): JsonObject => ({
  id: `urn:uuid:${randomUUID()}`,
  type: 'ViewEvent',
  actor: 'https://campus.example/users/L1',
  action: 'Viewed',
  object: 'https://campus.example/DRY/D1',
  eventTime: '2026-11-24T08:30:00.000Z',
  ...more,
});
const envelope = (data: JsonObject[]) => ({
  sensor: 'https://campus.example/sensor',
  sendTime: '2026-11-24T09:00:00.000Z',
  dataVersion: 'http://purl.imsglobal.org/ctx/caliper/v1p2',
  data,
});
const send = (body: unknown, headers: Record<string, string> = {}) =>
  POST(
    new Request('http://127.0.0.1/caliper', {
      method: 'POST',
      headers: { authorization: `Bearer ${sensor.secret}`, 'content-type': 'application/json', ...headers },
      body: typeof body === 'string' ? body : JSON.stringify(body),
    }),
  );
const events = async () =>
  (await readLog(door.runtime, await openLog(door.runtime, SYSTEM_VIEWER, { staff: 'yes' }), { limit: 1000 })).rows;

describe('what sensors of Caliper send', () => {
  it('needs a credential for it, which is good for nothing else', async () => {
    const statements = `Bearer ${door.campus.secret}`;
    expect((await send(envelope([]), { authorization: statements })).status).toBe(401);
    expect((await send(envelope([]), { authorization: '' })).status).toBe(401);
    const asStatement = await door.ask('GET', '', undefined, { authorization: `Bearer ${sensor.secret}` });
    expect(asStatement.status).toBe(401);
  });

  it('is refused whole when some of it is wrong', async () => {
    const before = (await events()).length;
    const answers = [
      [await send('{', {}), 400],
      [await send(envelope([event(), event({ eventTime: 'x' })])), 400],
      [await send({ ...envelope([event()]), dataVersion: 'http://purl.imsglobal.org/ctx/caliper/v9' }), 422],
      [await send(envelope([event()]), { 'content-type': 'text/plain' }), 415],
      [await send(envelope(Array.from({ length: 1001 }, () => event()))), 413],
      [await send('['.repeat(100_000)), 400],
    ] as const;
    for (const [answer, status] of answers) {
      expect(answer.status).toBe(status);
      expect((await answer.json()).detail).not.toBe('');
    }
    expect(await events()).toHaveLength(before);
  });

  it('comes into the log once, however often it is sent', async () => {
    const before = (await events()).length;
    const one = event();
    expect(await (await send(envelope([one, one]))).json()).toEqual({ stored: 1, waiting: 0 });
    expect(await (await send(envelope([one, { ...one, action: 'Retrieved' }]))).json()).toEqual({
      stored: 0,
      waiting: 0,
    });
    const now = await events();
    expect(now).toHaveLength(before + 1);
    const stranger = event({ actor: 'https://campus.example/users/nobody' });
    expect(await (await send(envelope([stranger]))).json()).toEqual({ stored: 1, waiting: 1 });
    expect(await events()).toHaveLength(before + 1);
  });

  it('tells of a grade, which is no visit of whoever it is of', async () => {
    const before = (await events()).length;
    const course = await learnerCourse(door.runtime, SYSTEM_VIEWER, 'L1', 'DRY');
    const work = course.page.items.find(({ item }) => item.kind === 'quiz')!;
    const graded = event({
      type: 'GradeEvent',
      action: 'Graded',
      actor: 'https://campus.example/users/teacher',
      object: {
        id: 'https://campus.example/attempts/5',
        type: 'Attempt',
        assignee: 'https://campus.example/users/L1',
        assignable: `https://campus.example/DRY/${work.item.externalId}`,
      },
      generated: { id: 'https://campus.example/scores/5', type: 'Score', scoreGiven: 7, maxScore: 10 },
    });
    expect(await (await send(envelope([graded]))).json()).toEqual({ stored: 1, waiting: 0 });
    expect(await events()).toHaveLength(before);
    await recalculate(door.runtime);
    const { page } = await learnerCourse(door.runtime, SYSTEM_VIEWER, 'L1', 'DRY');
    const after = page.items.find(({ item }) => item.id === work.item.id)!;
    expect(after.counting).toMatchObject({ score: 7, points: 10 });
    expect((await checkAll(door.runtime)).problems).toEqual([]);
  });
});

describe('messages in discussions', () => {
  it('are posts of the discussion that they are part of', async () => {
    await bringIn(
      door.runtime,
      'outline',
      'course,course_title,starts_on,ends_on,unit,item_id,item,kind,required\nDRY,Drystone Walling,2026-09-28,2026-12-21,Week 1,T1,Talk,discussion,no\n',
    );
    const forum = { id: 'https://campus.example/DRY/T1', type: 'Forum' };
    const message = {
      id: 'https://campus.example/messages/9',
      type: 'Message',
      body: 'Which <b>stone</b> first?',
      isPartOf: forum,
    };
    const posted = event({ type: 'MessageEvent', action: 'Posted', object: message });
    for (let times = 0; times < 2; times += 1) expect((await send(envelope([posted]))).status).toBe(200);
    const { rows } = await askList(POSTS, door.runtime, SYSTEM_VIEWER, { item: 'T1' });
    expect(rows).toMatchObject([
      { learner_id: 'L1', course: 'DRY', item_id: 'T1', text: expect.stringContaining('stone') },
    ]);
  });
});
