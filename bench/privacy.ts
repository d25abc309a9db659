/**
 * Whose data it is, on a large institution: somebody with a long log is erased by another process while the Watch is read, and
 * what noting looks adds to a page.
 */
import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setImmediate as breathe } from 'node:timers/promises';
import { DAY } from '@/core/time/zone';
import { withRaw, type RawConnection } from '@/data/db';
import { WATCH } from '@/server/drift/watch-list';
import { learnerDetail } from '@/server/people/learner-detail';
import { askErasure } from '@/server/privacy/erasing';
import { noteLook, writeLooks } from '@/server/privacy/looks';
import type { Runtime } from '@/server/runtime';
import { SYSTEM_VIEWER } from '@/server/system-viewer';
import { NOW } from './data';
import { percentile, repeat, report, timed } from './measure';
import { bringIn, fill, iso, learnerOf, openBench } from './work-data';

const LARGE = { courses: 20, learners: 1000, group: 50, items: 10 };
const EVENTS = 5000;
const POSTS = 100_000;

/** Posts, as they would be there. */
function put(raw: RawConnection): void {
  const all = raw.prepare('SELECT id, learner_id, course_id FROM enrolment ORDER BY id').raw().all() as number[][];
  raw.transaction(() => {
    const post = raw.prepare(
      'INSERT INTO post (learner_id, course_id, at, text, words, external_id) VALUES (?, ?, ?, ?, 6, ?)',
    );
    for (let n = 0; n < POSTS; n += 1) {
      const [, learner, course] = all[(n * 7919) % all.length];
      post.run(learner, course, NOW - (n % 60) * DAY, `which stone of ${n} comes first`, `p${n}`);
    }
  })();
  raw.exec('ANALYZE');
}

/** Whoever carries out what is due, in a process of its own. */
function eraseBeside({ settings }: Runtime, now: number): Promise<void> {
  const child = spawn('node', ['dist/lee.mjs', 'erase'], {
    env: {
      ...process.env,
      LEESHORE_DATA_DIR: settings.dataDir,
      LEESHORE_NOW: new Date(now).toISOString(),
      LEESHORE_LOG: 'warn',
    },
    stdio: ['ignore', 'inherit', 'inherit'],
  });
  return new Promise((resolve, reject) =>
    child.on('exit', (code) => (code === 0 ? resolve() : reject(new Error(`lee erase ended with ${String(code)}`)))),
  );
}

async function benchErasing(runtime: Runtime): Promise<void> {
  const watch = () => WATCH.read(runtime, SYSTEM_VIEWER, { limit: '50' });
  await repeat(5, watch);
  const idle = percentile(await repeat(40, watch), 0.95);
  await askErasure(runtime, SYSTEM_VIEWER, learnerOf(3, 7), { reason: 'asked for it' });
  const spent: number[] = [];
  let isDone = false;
  const erasing = timed(() => eraseBeside(runtime, NOW + 15 * DAY)).finally(() => (isDone = true));
  while (!isDone) {
    spent.push((await timed(watch)).ms);
    // Whether the other process has ended is told between two turns.
    await breathe();
  }
  const { ms } = await erasing;
  const busy = percentile(spent, 0.95);
  const [{ done }] = await runtime.db('erasure').whereNotNull('done_at').count({ done: '*' });
  const says = `${busy.toFixed(0)} to ${idle.toFixed(0)} ms, ${spent.length} reads; ${done} erased in ${(ms / 1000).toFixed(1)} s`;
  report('Watch at the 95th while somebody is erased', busy / idle, 2, says);
}

async function benchLooks(runtime: Runtime): Promise<void> {
  const page = (l: number) => learnerDetail(runtime, SYSTEM_VIEWER, learnerOf(5, l));
  let l = 0;
  const plain = async () => void (await page((l += 1)));
  const noted = async () => {
    await page((l += 1));
    noteLook(runtime, SYSTEM_VIEWER, { learner: learnerOf(5, l), what: 'page' });
  };
  await repeat(50, plain);
  const spent: { noted: number[]; plain: number[] } = { noted: [], plain: [] };
  // In turn, so that what warms up or is written down meanwhile falls on both.
  for (let times = 0; times < 200; times += 1) {
    spent.plain.push((await timed(plain)).ms);
    spent.noted.push((await timed(noted)).ms);
  }
  const [with_, without] = [percentile(spent.noted, 0.5), percentile(spent.plain, 0.5)];
  const { ms } = await timed(() => writeLooks(runtime));
  const says = `${with_.toFixed(2)} to ${without.toFixed(2)} ms; what is held is written in ${ms.toFixed(0)} ms`;
  report('a learner with a look noted to one without', with_ / without, 1.03, says);
}

export async function benchPrivacy(): Promise<void> {
  const dir = mkdtempSync(join(tmpdir(), 'lee-shore-bench-'));
  const runtime = await openBench(dir);
  try {
    await fill(runtime, LARGE);
    const log = Array.from(
      { length: EVENTS },
      (_, n) => `${iso(NOW - (n + 1) * 600_000)},${learnerOf(3, 7)},C3,C3-${n % 10},opened,203.0.113.7`,
    );
    await bringIn(runtime, 'access-log', `time,learner_id,course,item_id,action,address\n${log.join('\n')}\n`);
    await withRaw(runtime.db, put);
    await benchLooks(runtime);
    await benchErasing(runtime);
  } finally {
    await runtime.db.destroy();
    rmSync(dir, { recursive: true, force: true });
  }
}
