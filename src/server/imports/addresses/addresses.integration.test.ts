import { createServer, type Server } from 'node:https';
import type { IncomingMessage, ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { generate } from 'selfsigned';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { listAddresses } from '@/data/imports/addresses';
import { SMALL, smallRuntime, viewerByEmail, type TestRuntime } from '@/server/testing';
import { SYSTEM_VIEWER } from '@/server/system-viewer';
import { makeOwner } from '@/server/owner';
import { workOnNext } from '../queue';
import { countNotComing } from '../reads';
import { addAddress, fetchNext, fetchNow, removeAddress, sayAddress } from './addresses';

let runtime: TestRuntime;
let server: Server;
let root: string;
let ca: string;
let answer: (request: IncomingMessage, response: ServerResponse) => void;
const asked: IncomingMessage[] = [];

const HOUR = 3_600_000;
const NAMES = 'Participant,Course,Last seen here\nInes Marrow,DRY,2026-11-20 10:00\n';
const calendar = (title: string) =>
  ['BEGIN:VCALENDAR', 'VERSION:2.0', 'PRODID:-//test', 'BEGIN:VEVENT', 'UID:one@test', 'DTSTAMP:20261101T000000Z']
    .concat([
      'DTSTART:20261201T100000Z',
      'DTEND:20261201T110000Z',
      `SUMMARY:${title}`,
      'END:VEVENT',
      'END:VCALENDAR',
      '',
    ])
    .join('\r\n');
const text =
  (body: string, headers: Record<string, string> = {}) =>
  (_: IncomingMessage, response: ServerResponse) =>
    response.writeHead(200, headers).end(body);

beforeAll(async () => {
  const made = await generate([{ name: 'commonName', value: 'localhost' }], {
    extensions: [
      {
        name: 'subjectAltName',
        altNames: [
          { type: 2, value: 'localhost' },
          { type: 7, ip: '127.0.0.1' },
        ],
      },
    ],
  });
  ca = made.cert;
  server = createServer({ key: made.private, cert: made.cert }, (request, response) => {
    asked.push(request);
    answer(request, response);
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  root = `https://localhost:${(server.address() as AddressInfo).port}`;
});
afterAll(() => server.close());
beforeEach(async () => {
  asked.length = 0;
  runtime = await smallRuntime();
  runtime.settings.allowPrivate = true;
  return () => runtime.close();
});

const add = (more: Record<string, string> = {}) =>
  addAddress(runtime, SYSTEM_VIEWER, { url: `${root}/t/list.csv?key=secret`, source: 'campus', every: '60', ...more });
const fetchDue = async () => {
  const found = await fetchNext(runtime, { ca });
  while ((await workOnNext(runtime, makeOwner())) === 'done');
  return found;
};
const state = async () => (await listAddresses(runtime.db))[0];
const sessions = () => runtime.db('session').select('title', 'cancelled');

describe('an address', () => {
  it('is https, is somebody’s who leads, and is there once', async () => {
    await expect(add({ url: 'http://a.example/x' })).rejects.toThrow('does not begin with https://');
    await expect(add({ url: 'file:///etc/passwd' })).rejects.toThrow('does not begin with https://');
    await expect(add({ url: 'nowhere' })).rejects.toThrow('is not an address');
    await expect(add({ part: 'NONE' })).rejects.toThrow('there is no course or group NONE');
    await expect(add({ every: '1' })).rejects.toThrow('is not one of');
    const mentor = await viewerByEmail(runtime, 'mentor@staff.example');
    await expect(addAddress(runtime, mentor, { url: root, source: 'x' })).rejects.toThrow('Nothing was found');
    await add();
    await expect(add()).rejects.toThrow('is fetched for campus already');
    expect(JSON.stringify(await runtime.db('audit').select('*'))).not.toContain('secret');
  });

  it('is said without its secrets', () => {
    expect(sayAddress('https://me:pw@a.example/calendar/x.ics?token=1')).toBe('a.example/…/x.ics');
    expect(sayAddress(`https://a.example/${'k'.repeat(40)}`)).toBe('a.example/…');
    expect(sayAddress('https://a.example/')).toBe('a.example');
  });

  it('brings a timetable, keeps it true, and costs nothing while it stays as it is', async () => {
    await add({ url: `${root.replace('https', 'webcal')}/t.ics`, part: 'DRY' });
    answer = (request, response) =>
      request.headers['if-none-match'] === '"1"'
        ? response.writeHead(304).end()
        : response.writeHead(200, { etag: '"1"' }).end(calendar('Walls'));
    expect(await fetchDue()).toBe(true);
    expect(await sessions()).toEqual([{ title: 'Walls', cancelled: 0 }]);
    expect(await fetchDue()).toBe(false);
    runtime.passTime(HOUR);
    expect(await fetchDue()).toBe(true);
    expect([asked.length, (await runtime.db('import_run').where('kind', 'sessions')).length]).toEqual([2, 1]);
    // A server that says nothing of changes: the same bytes are no news, others are.
    for (const [title, runs] of [
      ['Walls', 1],
      ['Gaps', 2],
    ] as const) {
      answer = text(calendar(title));
      runtime.passTime(HOUR);
      await fetchDue();
      expect(await runtime.db('import_run').where('kind', 'sessions')).toHaveLength(runs);
    }
    expect(await sessions()).toEqual([{ title: 'Gaps', cancelled: 0 }]);
  });

  it('stops at a file that nobody has settled, and says so until it comes', async () => {
    await add();
    answer = text(NAMES);
    await fetchDue();
    expect(await state()).toMatchObject({ taken_at: null, digest: null, failing_since: runtime.clock.now() });
    expect((await state()).problem).toContain('nobody has settled yet');
    expect(await countNotComing(runtime, SYSTEM_VIEWER)).toBe(1);
    expect(await countNotComing(runtime, await viewerByEmail(runtime, 'mentor@staff.example'))).toBe(0);
    answer = text(SMALL.roster);
    await fetchNow(runtime, SYSTEM_VIEWER, (await state()).id);
    await fetchDue();
    expect(await state()).toMatchObject({ problem: null, failing_since: null, taken_at: runtime.clock.now() });
    expect(await countNotComing(runtime, SYSTEM_VIEWER)).toBe(0);
  });

  it.each<[string, string, (request: IncomingMessage, response: ServerResponse) => void]>([
    ['is not there', 'answers 404', (_, response) => void response.writeHead(404).end()],
    [
      'breaks off',
      'broke off',
      (_, response) => {
        response.writeHead(200, { 'content-length': '100' }).write('x');
        setTimeout(() => response.destroy(), 20);
      },
    ],
    [
      'leaves https',
      'does not stay with https',
      (_, response) => void response.writeHead(302, { location: 'http://localhost/' }).end(),
    ],
    [
      'leads in a circle',
      'leads on more than 5 times',
      (_, response) => void response.writeHead(302, { location: '/again' }).end(),
    ],
    [
      'leads nowhere',
      'does not answer as a web server does',
      (_, response) => void response.writeHead(302, { location: 'https://' }).end(),
    ],
  ])('that %s is tried again', async (_what, problem, behave) => {
    await add();
    answer = behave;
    await fetchDue();
    expect((await state()).problem).toBe(problem);
    expect(await fetchDue()).toBe(false);
    runtime.passTime(HOUR / 4);
    expect(await fetchDue()).toBe(true);
  });

  it('is given up after its time, and not trusted by just any certificate', async () => {
    await add();
    answer = (_, response) => void response.writeHead(200).write('slow');
    await fetchNext(runtime, { ca, limit: 300 });
    expect((await state()).problem).toBe('did not answer whole within 0.3 s');
    await fetchNow(runtime, SYSTEM_VIEWER, (await state()).id);
    await fetchNext(runtime);
    expect((await state()).problem).toMatch(/^has a certificate that is not trusted/);
  });

  it('leads nowhere private unless the setting lets it', async () => {
    runtime.settings.allowPrivate = false;
    answer = text(SMALL.roster);
    for (const url of [
      `${root}/a`,
      `${root.replace('localhost', '127.0.0.1')}/b`,
      `${root.replace('localhost', '[::1]')}/c`,
    ])
      await add({ url });
    while (await fetchNext(runtime, { ca }));
    for (const { problem } of await listAddresses(runtime.db)) expect(problem).toMatch(/^is a private address/);
    expect(asked).toEqual([]);
  });

  it('is fetched by one of two, also by a clock that was set back', async () => {
    await add();
    answer = text(SMALL.roster);
    expect(await Promise.all([fetchNext(runtime, { ca }), fetchNext(runtime, { ca })])).toContain(false);
    expect(asked).toHaveLength(1);
    runtime.passTime(-48 * HOUR);
    expect(await fetchNext(runtime, { ca })).toBe(true);
    await removeAddress(runtime, SYSTEM_VIEWER, (await state()).id);
    expect(await fetchNext(runtime, { ca })).toBe(false);
    await expect(removeAddress(runtime, SYSTEM_VIEWER, 1)).rejects.toThrow('No such address');
  });
});
