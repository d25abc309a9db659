import { copyFileSync, mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { createServer, type Server, type Socket } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { countOf } from '@/data/db';
import { withRaw } from '@/data/db';
import { findRun } from '@/data/imports/import-runs';
import { findLearner } from '@/data/people/learners';
import type { DriftView } from '@/data/view';
import { workOnNext } from '../imports/queue';
import { openMailer } from './mailer';
import { sendDue, type Carriers } from './outbox';
import { makeOwner } from '../owner';
import { SMALL, bringIn, smallRuntime, testRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { openDriftView } from '../request/view';
import { UNDO_TIME, sendDraft, startDraft } from './write';

let runtime: TestRuntime;
let view: DriftView;
const closing: (() => Promise<unknown>)[] = [];

beforeEach(async () => {
  runtime = await smallRuntime();
  view = await openDriftView(runtime, await viewerByEmail(runtime, 'lead@staff.example'));
});
afterEach(async () => {
  for (const close of closing.splice(0)) await close();
  await runtime.close();
});

const TEXT = { subject: 'About {{course}}', body: 'Hello {{given_name}}.' };

async function queue(on: TestRuntime, ...learners: string[]): Promise<void> {
  const own = await openDriftView(on, await viewerByEmail(on, 'lead@staff.example'));
  const ids = await Promise.all(learners.map(async (id) => (await findLearner(on.db, own.viewer, id))!));
  const draft = await startDraft(on, own, ids);
  expect((await sendDraft(on, own, draft, TEXT, ids.map(String))).outcome).toBe('queued');
  on.passTime(UNDO_TIME);
}

const states = (on = runtime) => on.db('message').orderBy('id').pluck('state');

/** A mail server by what it does with each line it gets. */
async function server(
  answer: (line: string, socket: Socket) => string | null,
): Promise<{ port: number; met: string[] }> {
  const met: string[] = [];
  const sockets = new Set<Socket>();
  const listening: Server = createServer((socket) => {
    sockets.add(socket);
    socket.on('error', () => undefined);
    const greeting = answer('GREETING', socket);
    if (greeting !== null) socket.write(greeting);
    let rest = '';
    socket.on('data', (data) => {
      rest += data.toString();
      const lines = rest.split('\r\n');
      rest = lines.pop()!;
      for (const line of lines) {
        met.push(line);
        const said = answer(line, socket);
        if (said !== null) socket.write(said);
      }
    });
  });
  await new Promise<void>((resolve) => listening.listen(0, '127.0.0.1', resolve));
  closing.push(async () => {
    for (const socket of sockets) socket.destroy();
    await new Promise((resolve) => listening.close(resolve));
  });
  return { port: (listening.address() as { port: number }).port, met };
}

/** Says yes to everything but what `unless` answers. */
function polite(unless: (line: string, socket: Socket) => string | null | undefined) {
  return (line: string, socket: Socket): string | null => {
    const own = unless(line, socket);
    if (own !== undefined) return own;
    if (line === 'GREETING') return '220 here\r\n';
    if (/^(EHLO|HELO|MAIL|RCPT|QUIT|RSET)/.test(line)) return '250 ok\r\n';
    if (line === 'DATA') return '354 go on\r\n';
    return line === '.' ? '250 taken\r\n' : null;
  };
}

const by = (port: number, step = 400): Carriers => ({
  mailer: openMailer(`smtp://127.0.0.1:${port}`, step),
  gateway: null,
});

describe('a mail that was refused', () => {
  it.each([
    ['by a greeting', (line: string) => (line === 'GREETING' ? '421 not now\r\n' : undefined)],
    ['by its recipient, for now', (line: string) => (line.startsWith('RCPT') ? '450 later\r\n' : undefined)],
    ['at DATA', (line: string) => (line === 'DATA' ? '451 later\r\n' : undefined)],
    [
      'by a line that broke before DATA',
      (line: string, socket: Socket) => (line.startsWith('RCPT') ? (socket.destroy(), null) : undefined),
    ],
    ['by a silence before DATA', (line: string) => (line.startsWith('RCPT') ? null : undefined)],
  ])('%s before its text began is certainly unsent, and is tried again', async (_, unless) => {
    const { port, met } = await server(polite(unless));
    await queue(runtime, 'L1');
    await sendDue(runtime, by(port));
    expect(await states()).toEqual(['queued']);
    expect(met).not.toContain('.');
  });

  it('by its recipient for good is failed, and after its text is what the server said', async () => {
    const refusing = await server(polite((line) => (line.startsWith('RCPT') ? '550 nobody here\r\n' : undefined)));
    await queue(runtime, 'L1');
    await sendDue(runtime, by(refusing.port));
    expect(await states()).toEqual(['failed']);
    const late = await server(polite((line) => (line === '.' ? '452 no room\r\n' : undefined)));
    await queue(runtime, 'L2');
    await sendDue(runtime, by(late.port));
    expect(await states()).toEqual(['failed', 'queued']);
  });

  it('by silence after its text is unsure, and never sent again by itself', async () => {
    const { port } = await server(polite((line) => (line === '.' ? null : undefined)));
    await queue(runtime, 'L1');
    await sendDue(runtime, by(port));
    expect(await states()).toEqual(['unsure']);
    runtime.passTime(10_000_000);
    expect(await sendDue(runtime, by(port))).toBe(0);
  });
});

describe('a slow mail server', () => {
  it('delays neither the next mail nor any text message', async () => {
    // The first to connect is never answered; the others are.
    let connections = 0;
    const slow = new Set<Socket>();
    const { port } = await server(
      polite((line, socket) => {
        if (line === 'GREETING' && connections++ === 0) slow.add(socket);
        return slow.has(socket) ? null : undefined;
      }),
    );
    await queue(runtime, 'L1', 'L2', 'L3');
    const before = performance.now();
    let lastSent = 0;
    const watching = setInterval(() => {
      void countOf(runtime.db('message').where('state', 'sent')).then((n) => {
        if (n === 2 && lastSent === 0) lastSent = performance.now() - before;
      });
    }, 20);
    await sendDue(runtime, by(port, 1500));
    clearInterval(watching);
    expect((await states()).sort()).toEqual(['queued', 'sent', 'sent']);
    // Both others were there before the first was given up.
    expect(lastSent).toBeGreaterThan(0);
    expect(lastSent).toBeLessThan(1500);
  });

  it('is given up at each step, also when it says a letter now and then', async () => {
    const { port } = await server((line, socket) => {
      if (line === 'GREETING') {
        const timer = setInterval(() => socket.write('2'), 30);
        socket.on('close', () => clearInterval(timer));
      }
      return null;
    });
    await queue(runtime, 'L1');
    const before = performance.now();
    await sendDue(runtime, by(port, 200));
    expect(performance.now() - before).toBeLessThan(5000);
    expect(await states()).toEqual(['queued']);
  });
});

describe('a full disk', () => {
  it('has nothing sent that cannot be noted', async () => {
    const { port, met } = await server(polite(() => undefined));
    await queue(runtime, 'L1');
    await withRaw(runtime.db, (raw) => {
      raw.exec("CREATE TEMP TRIGGER full BEFORE UPDATE ON message BEGIN SELECT RAISE(ABORT, 'disk is full'); END");
    });
    await expect(sendDue(runtime, by(port))).rejects.toThrow('disk is full');
    expect(met.filter((line) => line === 'DATA')).toHaveLength(1);
    expect(met).not.toContain('.');
    await withRaw(runtime.db, (raw) => raw.exec('DROP TRIGGER temp.full'));
    expect(await states()).toEqual(['queued']);
    await sendDue(runtime, by(port));
    expect(await states()).toEqual(['sent']);
  });

  it('leaves no message *sending* whose count beside the database cannot be written', async () => {
    const { port, met } = await server(polite(() => undefined));
    await queue(runtime, 'L1', 'L2', 'L4');
    const marker = join(runtime.settings.dataDir, 'outbox.json');
    // A folder in its place: no file can be put there, as on a full disk.
    rmSync(marker);
    mkdirSync(marker);
    await expect(sendDue(runtime, by(port))).rejects.toThrow(/outbox\.json/);
    expect(met).not.toContain('.');
    expect(await states()).toEqual(['queued', 'queued']);
    rmSync(marker, { recursive: true });
    await sendDue(runtime, by(port));
    expect(await states()).toEqual(['sent', 'sent']);
  });
});

describe('a clock that was ahead', () => {
  it('holds nothing that was queued by it', async () => {
    const { port } = await server(polite(() => undefined));
    runtime.setNow('2026-11-25T22:00:00Z');
    runtime.passTime(26 * 3_600_000);
    await queue(runtime, 'L1');
    runtime.passTime(-26 * 3_600_000);
    runtime.setNow('2026-11-24T20:00:00Z');
    await sendDue(runtime, by(port));
    expect(await states()).toEqual(['sent']);
    const [{ created_at }] = await runtime.db('message');
    expect(created_at).toBe(Date.parse('2026-11-24T20:00:00Z'));
  });

  it('still keeps the learner’s quiet hours', async () => {
    const { port } = await server(polite(() => undefined));
    runtime.setNow('2026-11-25T12:00:00Z');
    await queue(runtime, 'L1');
    runtime.setNow('2026-11-24T22:00:00Z');
    expect(await sendDue(runtime, by(port))).toBe(0);
    runtime.setNow('2026-11-25T08:30:00Z');
    await sendDue(runtime, by(port));
    expect(await states()).toEqual(['sent']);
  });
});

describe('a copy of the data', () => {
  async function copyTo(dir: string): Promise<void> {
    mkdirSync(dir, { recursive: true });
    const file = join(dir, 'lee-shore.sqlite');
    for (const old of ['', '-wal', '-shm']) rmSync(`${file}${old}`, { force: true });
    await withRaw(runtime.db, (raw) => raw.backup(file));
  }

  it('sends nothing that waited in it: a person decides, and the first start says so', async () => {
    const { port } = await server(polite(() => undefined));
    await queue(runtime, 'L1', 'L2');
    const dir = mkdtempSync(join(tmpdir(), 'lee-shore-copy-'));
    await copyTo(dir);
    await sendDue(runtime, by(port));
    expect(await states()).toEqual(['sent', 'sent']);
    const copy = await testRuntime('2026-11-24T09:20:00Z', 'Europe/Dublin', dir);
    closing.push(() => copy.close().then(() => rmSync(dir, { recursive: true })));
    expect(await states(copy)).toEqual(['unsure', 'unsure']);
    expect(await copy.db('audit').where('what', 'opened a copy of the data').pluck('subject')).toEqual([
      '2 messages waited in it',
    ]);
    copy.passTime(10_000_000);
    expect(await sendDue(copy, by(port))).toBe(0);
  });

  it('that is put back in its own place sends nothing twice, and what nothing was sent after is sent', async () => {
    const { port, met } = await server(polite(() => undefined));
    const dir = runtime.settings.dataDir;
    const kept = join(dir, 'kept.sqlite');
    await queue(runtime, 'L1');
    await withRaw(runtime.db, (raw) => raw.backup(kept));
    const putBack = async () => {
      await runtime.db.destroy();
      for (const old of ['-wal', '-shm']) rmSync(join(dir, `lee-shore.sqlite${old}`), { force: true });
      copyFileSync(kept, join(dir, 'lee-shore.sqlite'));
      const again = await testRuntime('2026-11-24T09:20:00Z', 'Europe/Dublin', dir);
      again.passTime(UNDO_TIME);
      return again;
    };
    let again = await putBack();
    expect(await states(again)).toEqual(['queued']);
    await sendDue(again, by(port));
    await again.db.destroy();
    again = await putBack();
    expect(await states(again)).toEqual(['unsure']);
    expect(await sendDue(again, by(port))).toBe(0);
    expect(met.filter((line) => line === '.')).toHaveLength(1);
    await again.db.destroy();
    runtime = await testRuntime('2026-11-24T09:20:00Z', 'Europe/Dublin', dir);
    closing.push(async () => rmSync(dir, { recursive: true, force: true }));
  });

  it('in another folder leaves the files of the first alone', async () => {
    // Waiting, taken by nobody yet.
    await runtime.db('import_run').insert({
      kind: 'roster',
      source: 'files',
      timezone: 'UTC',
      file_name: 'roster.csv',
      path: 'waiting-file',
      size: 10,
      state: 'waiting',
      created_at: 0,
    });
    writeFileSync(join(runtime.settings.dataDir, 'incoming', 'waiting-file'), SMALL.roster);
    const dir = mkdtempSync(join(tmpdir(), 'lee-shore-copy-'));
    await copyTo(dir);
    const copy = await testRuntime('2026-11-24T09:20:00Z', 'Europe/Dublin', dir);
    closing.push(() => copy.close().then(() => rmSync(dir, { recursive: true })));
    const [{ id }] = await copy.db('import_run').where('path', 'waiting-file');
    await workOnNext(copy, makeOwner());
    expect(await findRun(copy.db, id)).toMatchObject({
      state: 'failed',
      error: expect.stringContaining('not in this data folder'),
    });
    await workOnNext(runtime, makeOwner());
    expect(await findRun(runtime.db, id)).toMatchObject({ state: 'done', duplicate: 6 });
    expect((await bringIn(runtime, 'roster', SMALL.roster)).state).toBe('done');
  });
});

it('ids of messages carry the installation’s own domain', async () => {
  await queue(runtime, 'L1');
  expect((await runtime.db('message').first())!.message_id).toMatch(/@staff\.example$/);
  const own = { ...runtime, settings: { ...runtime.settings, domain: 'learn.saltholm.example' } };
  await queue(own, 'L2');
  expect((await runtime.db('message').orderBy('id', 'desc').first())!.message_id).toMatch(/@learn\.saltholm\.example$/);
  expect(view.viewer.role).toBe('lead');
});
