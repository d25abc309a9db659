import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { countOf } from '@/data/db';
import { GET as about } from '@/app/xapi/about/route';
import { GET, POST, PUT } from '@/app/xapi/statements/route';
import type { JsonObject } from '@/core/feed/xapi/values';
import { whatWaits } from '@/data/feed/xapi/statements';
import { openLog, readLog } from '@/server/access/access-log';
import { checkAll } from '@/server/check';
import { recalculate } from '@/server/drift/recalculate';
import { makeCredential, type NewCredential } from '../sources';
import { ADDRESS, basic, openDoor, statement, type Door } from './testing';
import { SYSTEM_VIEWER } from '@/server/system-viewer';
import { SMALL, bringIn, viewerByEmail, type TestRuntime } from '@/server/testing';
import { takeWaiting } from './take';

let door: Door;
let runtime: TestRuntime;
let campus: NewCredential;

beforeAll(async () => {
  door = await openDoor({ GET, POST, PUT });
  ({ runtime, campus } = door);
});
afterAll(() => door.close());

const bearer = ({ secret }: NewCredential) => `Bearer ${secret}`;
const ask: Door['ask'] = (...call) => door.ask(...call);
const events = async (values: Record<string, string> = {}) =>
  (await readLog(runtime, await openLog(runtime, SYSTEM_VIEWER, { staff: 'yes', ...values }), { limit: 1000 })).rows;

describe('who may send, and in which version', () => {
  it('says which versions there are to anybody', async () => {
    expect(await about().json()).toEqual({ version: ['1.0.3', '2.0.0'], extensions: {} });
  });

  it('takes basic and bearer credentials of a source, and nothing else', async () => {
    expect((await ask('GET', '', undefined, { authorization: bearer(campus) })).status).toBe(200);
    for (const authorization of [
      '',
      'Basic ',
      'Bearer wrong',
      basic({ ...campus, secret: 'wrong' }),
      basic({ ...door.other, key: campus.key }),
    ]) {
      const refused = await ask('GET', '', undefined, { authorization });
      expect(refused.status).toBe(401);
      expect(refused.headers.get('www-authenticate')).toContain('Basic');
    }
  });

  it.each([
    ['1.0', 200, '1.0.3'],
    ['1.0.2', 200, '1.0.3'],
    ['2.0.0', 200, '2.0.0'],
    ['0.95', 400, '2.0.0'],
  ])('answers version %s with %i', async (version, status, spoken) => {
    const answer = await ask('GET', '', undefined, { 'x-experience-api-version': version });
    expect(answer.status).toBe(status);
    expect(answer.headers.get('x-experience-api-version')).toBe(spoken);
  });

  it('lets nobody but a lead make a credential', async () => {
    const mentor = await viewerByEmail(runtime, 'mentor@staff.example');
    await expect(makeCredential(runtime, mentor, { source: 'x' })).rejects.toThrow('Nothing was found');
  });
});

describe('statements', () => {
  it('are stored one at a time and many at once, and become events of the log', async () => {
    const one = await ask('POST', '', statement('l1', 'D1'));
    expect(one.status).toBe(200);
    const [id] = await one.json();
    const many = await ask('POST', '', [statement('l2', 'D2', 'submitted'), statement('l4', 'D1')]);
    expect(await many.json()).toHaveLength(2);
    // L4 has no address on the roster, so that one waits.
    expect((await events({ learner: 'L1' })).map((row) => [row.item_id, row.action, row.kind])).toEqual([
      ['D1', 'opened', 'looked'],
    ]);
    expect((await events({ learner: 'L2' })).map((row) => [row.item_id, row.action, row.kind])).toEqual([
      ['D2', 'submitted', 'worked'],
    ]);
    const back = await (await ask('GET', `?statementId=${id}`)).json();
    expect(back).toMatchObject({ ...statement('l1', 'D1'), id, version: '1.0.0', stored: '2026-11-24T09:10:00.000Z' });
    expect(back.authority.account.name).toBe(campus.key);
  });

  it('are put under an id: again the same changes nothing, something else is a conflict', async () => {
    const id = randomUUID();
    const body = statement('l1', 'D2');
    expect((await ask('PUT', `?statementId=${id}`, body)).status).toBe(204);
    expect((await ask('PUT', `?statementId=${id}`, body)).status).toBe(204);
    expect((await ask('PUT', `?statementId=${id}`, statement('l1', 'D1'))).status).toBe(409);
    expect((await ask('POST', '', { ...body, id })).status).toBe(200);
    expect((await events({ learner: 'L1', item: 'D2', course: 'DRY' })).length).toBe(1);
    // One without a time is given that of its storing; sent again later it is still the same.
    const timeless: JsonObject = { ...statement('l1', 'D2', 'rated'), id: randomUUID() };
    delete timeless.timestamp;
    const stop = runtime.clock;
    for (const later of [0, 7000]) {
      runtime.clock = { ...stop, now: () => stop.now() + later };
      expect((await ask('POST', '', timeless)).status).toBe(200);
    }
    runtime.clock = stop;
    expect(await events({ action: 'rated' })).toHaveLength(1);
    expect((await ask('PUT', '', body)).status).toBe(400);
    expect((await ask('PUT', '?statementId=one', body)).status).toBe(400);
    expect((await ask('PUT', `?statementId=${id}`, { ...body, id: randomUUID() })).status).toBe(400);
  });

  it('are refused whole when one of a batch is broken, at odds with a stored one, or there twice', async () => {
    const before = (await events()).length;
    const stored = () => countOf(runtime.db('statement'));
    const count = await stored();
    const batch = Array.from({ length: 500 }, () => statement('l1', 'D1'));
    batch[317] = { ...batch[317], verb: { id: 'no verb' } };
    const broken = await ask('POST', '', batch);
    expect(broken.status).toBe(400);
    expect((await broken.json()).error).toBe('statement 317: verb.id is not an IRI.');
    const id = randomUUID();
    await ask('PUT', `?statementId=${id}`, statement('l2', 'D1'));
    expect((await ask('POST', '', [statement('l1', 'D1'), { ...statement('l2', 'D2'), id }])).status).toBe(409);
    expect(
      (
        await ask(
          'POST',
          '',
          [
            { ...statement('l1', 'D1'), id: randomUUID() },
            { ...statement('l2', 'D2'), id },
          ].map((one) => ({ ...one, id })),
        )
      ).status,
    ).toBe(400);
    expect(await stored()).toBe(count + 1);
    expect((await events()).length).toBe(before + 1);
    for (const body of ['{', '"text"', 'null']) expect((await ask('POST', '', body)).status).toBe(400);
    expect(
      (await ask('POST', '', statement('l1', 'D1'), { 'content-type': 'multipart/mixed; boundary=x' })).status,
    ).toBe(400);
    expect((await ask('POST', '', statement('l1', 'D1'), { 'content-type': 'text/plain' })).status).toBe(400);
    expect((await ask('POST', '?colour=red', statement('l1', 'D1'))).status).toBe(400);
    expect((await ask('POST', '', statement('l1', 'D1'), { 'content-length': '20000000' })).status).toBe(413);
    expect((await ask('POST', '', ' '.repeat(10_500_000))).status).toBe(413);
    // Of somebody who has not said who they are, nothing large is read, however it is sent.
    const form = `content=${'x'.repeat(400_000)}`;
    const formed = { 'content-type': 'application/x-www-form-urlencoded' };
    let pieces = 0;
    const endless = new ReadableStream<Uint8Array>({
      pull(controller) {
        pieces += 1;
        controller.enqueue(new TextEncoder().encode('x'.repeat(65_536)));
      },
    });
    const nobody = (body: BodyInit, headers: Record<string, string> = {}) =>
      POST(
        new Request(`${ADDRESS}?method=POST`, {
          method: 'POST',
          headers: { ...formed, ...headers },
          body,
          duplex: 'half',
        } as RequestInit),
      );
    expect((await nobody(form)).status).toBe(413);
    expect((await nobody(endless)).status).toBe(413);
    expect(pieces).toBeLessThan(10);
    expect((await nobody(form, { authorization: 'Basic bm9ib2R5OngK' })).status).toBe(401);
    // A text nested deeper than anything says, whatever looks through it.
    const deep = (depth: number) => `${'['.repeat(depth)}${']'.repeat(depth)}`;
    expect((await ask('POST', '', deep(5_000_000 / 10))).status).toBe(400);
    expect(
      (
        await ask('POST', '', {
          ...statement('l1', 'D1'),
          result: { extensions: { 'https://x.example/a': JSON.parse(deep(120)) } },
        })
      ).status,
    ).toBe(400);
    expect((await ask('POST', '', statement('l1', 'D1', 'opened', { timestamp: '1600-01-01T00:00:00Z' }))).status).toBe(
      400,
    );
    expect((await ask('POST', '', new Array(1001).fill(statement('l1', 'D1')))).status).toBe(413);
  });

  it('find their people by address, sum or account, and their items by what is around them', async () => {
    const sum = '6d97b0ff07ee0c5b9ed7a3f4e9bd6ec2a6ff33a7';
    const { createHash } = await import('node:crypto');
    const real = createHash('sha1').update('mailto:l3@learner.example').digest('hex');
    const about = (actor: JsonObject, object: JsonObject, context?: JsonObject) => ({
      ...statement('x', 'x', 'posted'),
      actor,
      object,
      ...(context ? { context } : {}),
    });
    const parent = { contextActivities: { parent: [{ id: 'https://campus.example/course/NET' }] } };
    await ask('POST', '', [
      about({ mbox_sha1sum: real }, { id: 'https://campus.example/item/N1' }, parent),
      about({ mbox_sha1sum: sum }, { id: 'https://campus.example/item/N1' }, parent),
      about({ account: { homePage: 'https://campus.example', name: 'L4' } }, { id: 'urn:campus:DRY:D2' }),
      about({ account: { homePage: 'https://campus.example', name: 'S3' } }, { id: 'https://campus.example/DRY/D1' }),
      about({ account: { homePage: 'https://campus.example', name: 'L1' } }, { id: 'https://campus.example/NET' }),
    ]);
    const posted = (await events({ action: 'posted' })).map((row) => [row.learner_id, row.course, row.item_id]);
    expect(posted).toEqual(
      expect.arrayContaining([
        ['L3', 'NET', 'N1'],
        ['L4', 'DRY', 'D2'],
        ['S3', 'DRY', 'D1'],
        ['L1', 'NET', null],
      ]),
    );
    expect(posted).toHaveLength(4);
  });

  it('wait while nobody knows their person or item, and are taken in when the roster catches up', async () => {
    const later = [statement('l9', 'D1', 'viewed'), statement('l1', 'D9', 'viewed')];
    await ask('POST', '', later);
    expect(await events({ action: 'opened', learner: 'L2' })).toHaveLength(1);
    const waiting = (await whatWaits(runtime.db, 10)).map((row) => row.waits_for);
    expect(waiting).toEqual(
      expect.arrayContaining(['actor mailto:l9@learner.example', 'activity https://campus.example/courses/DRY/D9']),
    );
    expect(await takeWaiting(runtime)).toBe(0);
    await bringIn(
      runtime,
      'roster',
      SMALL.roster.replace(/L5,.*\n/, '') + 'L9,Nona,Pike,l9@learner.example,,,DRY,A,2026-09-28,active,\n',
    );
    await bringIn(
      runtime,
      'outline',
      `${SMALL.outline}DRY,Drystone Walling,2026-09-28,2026-12-21,Week 2,D9,Cope,page,yes\n`,
    );
    expect(await takeWaiting(runtime)).toBe(2);
    expect((await events({ action: 'viewed' })).map((row) => [row.learner_id, row.item_id]).sort()).toEqual([
      ['L1', 'D9'],
      ['L9', 'D1'],
    ]);
  });

  it('of a source whose clock runs ahead happened when they came, and the source is told of', async () => {
    await ask('POST', '', statement('l2', 'D1', 'saved', { timestamp: '2026-11-24T11:00:00Z' }));
    await ask('POST', '', statement('l2', 'D2', 'saved', { timestamp: '2026-11-24T09:12:00Z' }));
    expect((await events({ action: 'saved' })).map((row) => new Date(row.at).toISOString())).toEqual([
      '2026-11-24T09:12:00.000Z',
      '2026-11-24T09:10:00.000Z',
    ]);
    expect((await runtime.db('source').where('name', 'campus').first())!.ahead_ms).toBe(110 * 60_000);
  });

  it('are declared void by another, and their event leaves the log', async () => {
    const [id] = await (await ask('POST', '', statement('l2', 'D1', 'answered'))).json();
    expect(await events({ action: 'answered' })).toHaveLength(1);
    const voiding = {
      ...statement('l2', 'D1'),
      verb: { id: 'http://adlnet.gov/expapi/verbs/voided' },
      object: { objectType: 'StatementRef', id },
    };
    const [own] = await (await ask('POST', '', voiding)).json();
    expect(await events({ action: 'answered' })).toHaveLength(0);
    expect((await ask('GET', `?statementId=${id}`)).status).toBe(404);
    expect(await (await ask('GET', `?voidedStatementId=${id}`)).json()).toMatchObject({ id });
    expect((await ask('GET', `?statementId=${own}`)).status).toBe(200);
    // Word of it may come before the statement itself.
    const early = randomUUID();
    await ask('POST', '', { ...voiding, object: { objectType: 'StatementRef', id: early } });
    await ask('PUT', `?statementId=${early}`, statement('l2', 'D1', 'answered'));
    expect(await events({ action: 'answered' })).toHaveLength(0);
  });

  it('may come by a form, of version 1.0.x', async () => {
    const form = (query: string, fields: Record<string, string>) =>
      POST(new Request(ADDRESS + query, { method: 'POST', body: new URLSearchParams(fields) }));
    const head = { Authorization: basic(campus), 'X-Experience-API-Version': '1.0.3' };
    const body = { content: JSON.stringify(statement('l2', 'D1', 'printed')), 'Content-Type': 'application/json' };
    const [id] = await (await form('?method=POST', { ...head, ...body })).json();
    expect(await events({ action: 'printed' })).toHaveLength(1);
    expect(await (await form('?method=GET', { ...head, statementId: id })).json()).toMatchObject({ id });
    const put = { ...head, content: JSON.stringify(statement('l2', 'D1', 'printed')), statementId: randomUUID() };
    expect((await form('?method=PUT', put)).status).toBe(204);
    expect((await form('?method=PUT&statementId=x', put)).status).toBe(400);
    expect((await form('?method=DELETE', head)).status).toBe(405);
    expect((await form('?method=GET', { ...head, Authorization: 'Bearer wrong' })).status).toBe(401);
    expect((await form('?method=GET', { ...head, 'X-Experience-API-Version': '2.0.0' })).status).toBe(400);
    expect((await ask('POST', '?method=GET', {})).status).toBe(400);
  });

  it('leave counts and figures as if everything were made anew', async () => {
    await recalculate(runtime);
    expect((await checkAll(runtime)).problems).toEqual([]);
  });
});
