/** Several processes on one data folder: a server's worker, and commands of the shell beside it. */
import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync, statSync, writeFileSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import fc from 'fast-check';
import { SMTPServer } from 'smtp-server';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { countOf } from '@/data/db';
import { withRaw, countRows } from '@/data/db';
import { findRun, openRuns } from '@/data/imports/import-runs';
import { findLearner } from '@/data/people/learners';
import { checkAll } from '@/server/check';
import { sendDraft, startDraft } from '@/server/contact/write';
import { workOnNext } from '@/server/imports/queue';
import { isGone, isHeld, makeOwner } from '@/server/owner';
import { readSettings } from '@/server/settings';
import { openDriftView } from '@/server/request/view';
import { SMALL, bringIn, logOf, testRuntime, viewerByEmail, type TestRuntime } from '@/server/testing';

const NOW = '2026-11-24T09:10:00Z';
let dir: string;
let runtime: TestRuntime;
const children: ChildProcess[] = [];

beforeEach(async () => {
  dir = mkdtempSync(join(tmpdir(), 'lee-shore-processes-'));
  runtime = await testRuntime(NOW, 'Europe/Dublin', dir);
  for (const kind of ['outline', 'roster', 'staff'] as const) await bringIn(runtime, kind, SMALL[kind]);
});
afterEach(async () => {
  for (const child of children.splice(0)) child.kill('SIGKILL');
  await runtime.close();
  rmSync(dir, { recursive: true, force: true });
});

const env = () => ({ ...process.env, LEESHORE_DATA_DIR: dir, LEESHORE_NOW: NOW, LEESHORE_LOG: 'silent' });

/** Events that the derived figures count. */
async function derivedEvents(): Promise<number> {
  return Number((await runtime.db('learner_course').sum({ events: 'events' }).first())?.events ?? 0);
}

function lee(...args: string[]): Promise<{ status: number | null; err: string }> {
  const child = spawn('node', ['dist/lee.mjs', ...args], { env: env(), stdio: ['ignore', 'ignore', 'pipe'] });
  children.push(child);
  let err = '';
  child.stderr.on('data', (data) => (err += data));
  return new Promise((resolve) => child.on('exit', (status) => resolve({ status, err })));
}

/** The server's threads, in a process of their own. */
function startServer(extra: Record<string, string> = {}): void {
  const settings = { ...readSettings({ ...env(), ...extra }), dataDir: dir };
  const host = `const { Worker } = require('node:worker_threads');
    for (const name of ['background', 'outbox']) {
      new Worker('./dist/' + name + '.mjs', { workerData: ${JSON.stringify(settings)} });
    }`;
  children.push(spawn('node', ['-e', host], { env: env(), stdio: 'ignore' }));
}

/** Waits until nothing is left to do by itself. */
async function settled(): Promise<void> {
  for (let tries = 0; tries < 600; tries += 1) {
    const left = await withRaw(runtime.db, (raw) => countRows(raw, 'touched') + countRows(raw, 'drift_stale'));
    if (left === 0 && (await openRuns(runtime.db)).length === 0) return;
    await pause(100);
  }
  throw new Error('The figures are not made anew by themselves');
}

/** Rows of several learners, over some weeks; `part` tells files apart, which overlap. */
function logPart(part: number, rows = 3000): string {
  return logOf(
    Array.from({ length: rows }, (_, i) => {
      const at = Date.UTC(2026, 9, 1) + (part * (rows / 2) + i) * 240_000 * ((i % 5) + 1);
      const iso = new Date(Math.min(at, Date.parse(NOW) - i * 1000)).toISOString();
      return `${iso},L${(i % 4) + 1},${i % 4 === 2 ? 'NET' : 'DRY'},,${['opened', 'posted', 'signed_in'][i % 3]}`;
    }),
  );
}

describe('commands of the shell beside a server', () => {
  it('in any order and at the same time, end with figures that are what the log gives', async () => {
    const file = (name: string, text: string) => {
      writeFileSync(join(dir, name), text);
      return join(dir, name);
    };
    const parts = [0, 1, 2, 3].map((part) => file(`log-${part}.csv`, logPart(part)));
    const roster = file(
      'roster.csv',
      SMALL.roster.replace(
        'L2,Tobias,Quill,l2@learner.example,,Penhallow,DRY,B',
        'L2,Tobias,Quill,l2@learner.example,,Penhallow,DRY,A',
      ),
    );
    const staff = file(
      'staff.csv',
      'staff_id,given_name,email,role,scope_kind,scope\nS9,Petra,l1@learner.example,instructor,course,NET\n',
    );
    const outline = file('outline.csv', SMALL.outline.replaceAll('2026-09-28', '2026-09-21'));
    const commands: string[][] = [
      ...parts.map((path) => ['import', 'access-log', path]),
      ['import', 'roster', roster],
      ['import', 'staff', staff],
      ['import', 'outline', outline],
      ['break', 'DRY', '2026-10-26', '2026-11-01', 'harvest'],
      ['feed-gap', 'files', '2026-11-03', '2026-11-05'],
      ['working-hours', 'mon-fri 09:00-17:00'],
      ['credential', 'campus'],
      ['account', 'add', '--email', 'new@staff.example', '--given-name', 'Nia', '--password', 'a long password'],
      ['check'],
      ['export', 'learners'],
      ['backup', join(dir, 'copy.sqlite')],
    ];
    startServer();
    await fc.assert(
      fc.asyncProperty(
        fc.shuffledSubarray(commands, { minLength: 8 }),
        fc.integer({ min: 1, max: 3 }),
        async (order, atOnce) => {
          for (let i = 0; i < order.length; i += atOnce) {
            const done = await Promise.all(order.slice(i, i + atOnce).map((args) => lee(...args)));
            for (const { err } of done) expect(err).not.toMatch(/differ|Error|at .*:\d+/);
          }
          await settled();
          expect((await checkAll(runtime)).problems).toEqual([]);
        },
      ),
      { numRuns: 2, endOnFailure: true },
    );
    const { status } = await lee('check');
    expect(status).toBe(0);
  }, 180_000);

  it('a message goes while a large file is taken in', async () => {
    const arrived: number[] = [];
    const smtp = new SMTPServer({
      authOptional: true,
      disabledCommands: ['STARTTLS'],
      onData(stream, _session, done) {
        stream.resume().once('end', () => {
          arrived.push(Date.now());
          done();
        });
      },
    });
    await new Promise<void>((resolve) => smtp.listen(0, '127.0.0.1', resolve));
    const { port } = smtp.server.address() as AddressInfo;
    try {
      const path = join(dir, 'incoming', 'large');
      writeFileSync(path, logPart(0, 250_000));
      await runtime.db('import_run').insert({
        ...{ kind: 'access-log', source: 'files', timezone: 'Europe/Dublin', file_name: 'large.csv', path: 'large' },
        ...{ size: statSync(path).size, state: 'waiting', created_at: runtime.clock.now() },
      });
      const run = async () => (await openRuns(runtime.db))[0];
      startServer({ LEESHORE_SMTP_URL: `smtp://127.0.0.1:${port}` });
      while (((await run())?.read ?? 1) === 0) await pause(20);
      const view = await openDriftView(runtime, await viewerByEmail(runtime, 'lead@staff.example'));
      const ids = [(await findLearner(runtime.db, view.viewer, 'L1'))!];
      const draft = await startDraft(runtime, view, ids);
      await sendDraft(runtime, view, draft, { subject: 'About', body: 'Hello.' }, ids.map(String));
      // Nobody waits for the moment in which it may be undone.
      await runtime.db('message').update({ next_try_at: 0 });
      while (arrived.length === 0 && (await run())) await pause(20);
      expect(arrived).toHaveLength(1);
      expect((await run()).state).toBe('running');
    } finally {
      await new Promise<void>((resolve) => smtp.close(resolve));
    }
  }, 120_000);

  it('a file brought in beside an idle server leaves the last access of everybody right', async () => {
    startServer();
    await settled();
    for (const part of [0, 1]) {
      writeFileSync(join(dir, 'log.csv'), logPart(part, 60_000));
      expect((await lee('import', 'access-log', join(dir, 'log.csv'))).status).toBe(0);
      // As soon as it has ended, what is shown is all of it.
      const stored = await derivedEvents();
      const events = await countOf(runtime.db('event').whereNotNull('learner_id'));
      expect(stored).toBe(events);
    }
    await settled();
    expect((await checkAll(runtime)).problems).toEqual([]);
  }, 120_000);

  it('a reader sees none or all of an import’s figures', async () => {
    startServer();
    writeFileSync(join(dir, 'log.csv'), logPart(0, 60_000));
    const ending = lee('import', 'access-log', join(dir, 'log.csv'));
    const seen = new Set<number>();
    let isOver = false;
    void ending.then(() => (isOver = true));
    while (!isOver) {
      const events = await derivedEvents();
      seen.add(Number(events ?? 0));
      await pause(3);
    }
    await ending;
    const events = await derivedEvents();
    expect([...seen].filter((count) => count !== 0 && count !== Number(events))).toEqual([]);
  }, 60_000);
});

describe('an import that was stopped', () => {
  it('and taken over by another stores nothing more when it goes on', async () => {
    const rows = 60_000;
    writeFileSync(join(dir, 'log.csv'), logPart(0, rows));
    const child = spawn('node', ['dist/lee.mjs', 'import', 'access-log', join(dir, 'log.csv')], {
      env: env(),
      stdio: 'ignore',
    });
    children.push(child);
    for (let read = 0; read === 0; await pause(5)) read = (await openRuns(runtime.db))[0]?.read ?? 0;
    child.kill('SIGSTOP');
    const [run] = await openRuns(runtime.db);
    expect(run.read).toBeLessThan(rows);
    // It lives, so it is not taken over before its lease ends.
    expect(await workOnNext(runtime, makeOwner())).toBe('idle');
    runtime.passTime(60_000);
    const ending = workOnNext(runtime, makeOwner());
    // It goes on while the other is at work on the same rows.
    await pause(50);
    child.kill('SIGCONT');
    expect(await ending).toBe('done');
    await new Promise((resolve) => child.on('exit', resolve));
    expect(await findRun(runtime.db, run.id)).toMatchObject({ state: 'done', read: rows, rejected: 0 });
    const n = await countOf(runtime.db('event'));
    const { accepted } = (await findRun(runtime.db, run.id))!;
    expect(n).toBe(accepted);
    const again = await bringIn(runtime, 'access-log', logPart(0, rows));
    expect(again.duplicate).toBe(rows);
    expect((await checkAll(runtime)).problems).toEqual([]);
  }, 60_000);
});

describe('an owner', () => {
  it('is known by more than its process id', () => {
    const own = makeOwner();
    expect(isGone(own)).toBe(false);
    const [place, pid, began, mark] = own.split('|');
    // The same id, once of a process that has ended.
    if (began !== '') expect(isGone([place, pid, '1', mark].join('|'))).toBe(true);
    expect(isGone([place, '4194300', began, mark].join('|'))).toBe(true);
    // Of another machine or container nobody can tell: its lease does.
    expect(isGone(['elsewhere', '4194300', began, mark].join('|'))).toBe(false);
    expect(isHeld({ owner: ['elsewhere', '1', '1', 'x'].join('|'), lease_until: 10 }, 5)).toBe(true);
    expect(isHeld({ owner: ['elsewhere', '1', '1', 'x'].join('|'), lease_until: 10 }, 11)).toBe(false);
    expect(isHeld({ owner: null, lease_until: 10 }, 5)).toBe(false);
  });
});
