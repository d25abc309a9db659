/** Events that arrive by themselves: the Watch meanwhile, and what open live streams cost. */
import { countOf } from '@/data/db';
import { spawn, type ChildProcess } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { addAccount } from '@/server/staff/accounts';
import { makeCredential, type NewCredential } from '@/server/feed/sources';
import { SYSTEM_VIEWER } from '@/server/system-viewer';
import { NOW, writeLog } from './data';
import { filled, importLog } from './import';
import { percentile, report, timed } from './measure';
import { tokenOf } from './sign-in';

const PORT = 4470;
const BASE = `http://127.0.0.1:${PORT}`;
const BATCH = 25;
const SECONDS = 60;
const A_SECOND = 300;
const LEARNERS = 2000;

/** One learner's statement on an item of their course. */
function statement(number: number) {
  const learner = (number * 37) % LEARNERS;
  const course = Math.floor(learner / 50);
  return {
    id: randomUUID(),
    actor: { account: { homePage: 'https://campus.example', name: `B${learner}` } },
    verb: { id: `https://campus.example/verbs/${['opened', 'viewed', 'answered', 'posted'][number % 4]}` },
    object: { id: `https://campus.example/C${course}/C${course}-${number % 60}` },
    timestamp: new Date(NOW).toISOString(),
  };
}

class Feed {
  sent = 0;

  constructor(private readonly credential: NewCredential) {}

  async batch(size: number): Promise<void> {
    const answer = await fetch(`${BASE}/xapi/statements`, {
      method: 'POST',
      headers: {
        'content-type': 'application/json',
        'x-experience-api-version': '1.0.3',
        authorization: `Bearer ${this.credential.secret}`,
      },
      body: JSON.stringify(Array.from({ length: size }, (_, index) => statement(this.sent + index))),
    });
    if (!answer.ok) throw new Error(`${answer.status} ${await answer.text()}`);
    this.sent += size;
  }

  /** Sends so many a second, in batches, for so many seconds. */
  async run(aSecond: number, seconds: number, size = BATCH): Promise<void> {
    const began = performance.now();
    const every = (1000 * size) / aSecond;
    for (let i = 0; i < (aSecond * seconds) / size; i += 1) {
      await pause(Math.max(0, began + i * every - performance.now()));
      await this.batch(size);
    }
  }
}

/** CPU time of a process with its threads, in ms. */
function cpuOf({ pid }: ChildProcess): number {
  const fields = readFileSync(`/proc/${pid}/stat`, 'utf8').split(') ')[1].split(' ');
  return (Number(fields[11]) + Number(fields[12])) * 10;
}

async function openWatch(cookie: string): Promise<number> {
  const { ms } = await timed(async () => {
    const answer = await fetch(`${BASE}/watch`, { headers: { cookie } });
    if (!answer.ok || !(await answer.text()).includes('Shoreline'))
      throw new Error(`the Watch answered ${answer.status}`);
  });
  return ms;
}

export async function benchArriving(rows: number): Promise<void> {
  const dir = mkdtempSync(join(tmpdir(), 'lee-shore-bench-'));
  const runtime = await filled(join(dir, 'data'), LEARNERS);
  const log = join(dir, 'log.csv');
  await writeLog(log, LEARNERS, rows);
  await importLog(runtime, log);
  const credential = await makeCredential(runtime, SYSTEM_VIEWER, { source: 'bench' });
  const who = { email: 'bench@staff.example', password: 'a bench needs one' };
  await addAccount(runtime, { ...who, given_name: 'Bench', role: 'lead' });
  const cookie = `lee_shore_session=${await tokenOf(runtime, who)}`;
  const app = spawn('node', ['node_modules/next/dist/bin/next', 'start', '-H', '127.0.0.1', '-p', String(PORT)], {
    env: {
      ...process.env,
      NODE_ENV: 'production',
      LEESHORE_DATA_DIR: runtime.settings.dataDir,
      LEESHORE_NOW: new Date(NOW).toISOString(),
      LEESHORE_LOG: 'warn',
    },
    stdio: ['ignore', 'ignore', 'inherit'],
  });
  try {
    while (
      !(await fetch(`${BASE}/api/v1/health`).then(
        (answer) => answer.ok,
        () => false,
      ))
    )
      await pause(200);
    const feed = new Feed(credential);
    await duringArrival(runtime, feed, cookie);
    await streams(app, feed, cookie);
  } finally {
    app.kill('SIGKILL');
    await runtime.db.destroy();
    rmSync(dir, { recursive: true, force: true });
  }
}

async function duringArrival(runtime: Awaited<ReturnType<typeof filled>>, feed: Feed, cookie: string): Promise<void> {
  const watch = async (until: () => boolean) => {
    const spent: number[] = [];
    while (!until()) {
      spent.push(await openWatch(cookie));
      await pause(150);
    }
    return spent;
  };
  for (let i = 0; i < 8; i += 1) await openWatch(cookie);
  const rest = performance.now() + 20_000;
  const idle = await watch(() => performance.now() > rest);
  let isOver = false;
  const [busy] = await Promise.all([watch(() => isOver), feed.run(A_SECOND, SECONDS).finally(() => (isOver = true))]);
  const [stored, made] = await Promise.all(
    [runtime.db('statement'), runtime.db('event').whereNotNull('external_id')].map((query) => countOf(query)),
  );
  report(
    'statements sent, to those stored',
    feed.sent / Math.min(stored, made),
    1,
    `${stored} stored, ${made} in the log, of ${feed.sent}`,
  );
  const [a, b] = [idle, busy].map((values) => percentile(values, 0.95));
  report(
    `Watch while ${A_SECOND} events a second arrive, p95`,
    b / a,
    3,
    `${b.toFixed(0)} ms of ${busy.length} against ${a.toFixed(0)} ms idle`,
  );
}

/** CPU of the application while events arrive, without and with 200 open streams. */
async function streams(app: ChildProcess, feed: Feed, cookie: string): Promise<void> {
  const [rate, seconds, count] = [20, 20, 200];
  const measured = async () => {
    // What the arrival itself still has to be worked on comes first.
    await pause(25_000);
    const before = cpuOf(app);
    await feed.run(rate, seconds, 5);
    return cpuOf(app) - before;
  };
  const without = await measured();
  const stop = new AbortController();
  let pieces = 0;
  const open = await Promise.all(
    Array.from({ length: count }, () =>
      fetch(`${BASE}/courses/now/stream`, { headers: { cookie }, signal: stop.signal }),
    ),
  );
  for (const { body } of open) {
    void (async () => {
      for await (const piece of body!) if (piece) pieces += 1;
    })().catch(() => undefined);
  }
  const withThem = await measured();
  stop.abort();
  const share = (withThem - without) / (seconds * 1000) / rate;
  report(
    `${count} open streams, share of a core for an event a second`,
    share / 0.01,
    1,
    `${(100 * share).toFixed(2)} % of 1 %; ${withThem} ms of CPU against ${without} ms in ${seconds} s at ${rate} a second, ${pieces} pieces read`,
  );
}
