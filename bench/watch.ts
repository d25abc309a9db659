/** The Watch's server time: with much and little log, and while an import runs. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createReadStream } from 'node:fs';
import { Worker } from 'node:worker_threads';
import { findRun } from '@/data/imports/import-runs';
import { receiveFile } from '@/server/imports/receive';
import type { Runtime } from '@/server/runtime';
import { SYSTEM_VIEWER } from '@/server/system-viewer';
import { openDriftView } from '@/server/request/view';
import { watchPage } from '@/server/drift/watch';
import { writeLog } from './data';
import { filled, importLog } from './import';
import { percentile, repeat, report } from './measure';

const TIMES = 60;

async function openWatch(runtime: Runtime): Promise<void> {
  await watchPage(runtime, await openDriftView(runtime, SYSTEM_VIEWER), { part: 'now', band: null, drift: null }, 1);
}

async function withLog(dir: string, learners: number, rows: number): Promise<Runtime> {
  const runtime = await filled(join(dir, `data-${rows}`), learners);
  const path = join(dir, `log-${rows}.csv`);
  await writeLog(path, learners, rows);
  await importLog(runtime, path);
  return runtime;
}

export async function benchWatch(few: number, many: number, learners: number): Promise<void> {
  const dir = mkdtempSync(join(tmpdir(), 'lee-shore-bench-'));
  try {
    const [little, much] = [await withLog(dir, learners, few), await withLog(dir, learners, many)];
    // In turns, so that a slow moment of the machine falls on both.
    const spent: [number[], number[]] = [[], []];
    await repeat(5, () => openWatch(little));
    await repeat(5, () => openWatch(much));
    for (let i = 0; i < TIMES; i += 1) {
      spent[0].push(...(await repeat(1, () => openWatch(little))));
      spent[1].push(...(await repeat(1, () => openWatch(much))));
    }
    const [a, b] = spent.map((values) => percentile(values, 0.5));
    report(
      `Watch of ${learners} learners, ${many} events against ${few}`,
      b / a,
      1.3,
      `${b.toFixed(1)} ms against ${a.toFixed(1)} ms`,
    );
    await little.db.destroy();
    await duringImport(much, dir, learners, many);
    await much.db.destroy();
  } finally {
    rmSync(dir, { recursive: true, force: true });
  }
}

async function duringImport(runtime: Runtime, dir: string, learners: number, rows: number): Promise<void> {
  const idle = percentile(await repeat(TIMES * 2, () => openWatch(runtime)), 0.95);
  const path = join(dir, 'more.csv');
  await writeLog(path, learners, Math.round(rows * 0.77));
  const [id] = await receiveFile(runtime, SYSTEM_VIEWER, { kind: 'access-log' }, createReadStream(path));
  const worker = new Worker(join(process.cwd(), 'dist', 'background.mjs'), { workerData: runtime.settings });
  const busy: number[] = [];
  for (let state = 'waiting'; state !== 'done'; state = (await findRun(runtime.db, id))!.state) {
    busy.push(...(await repeat(1, () => openWatch(runtime))));
    await new Promise((resolve) => setTimeout(resolve, 20));
  }
  await worker.terminate();
  const p95 = percentile(busy, 0.95);
  report(
    'Watch while an import runs, p95',
    p95 / idle,
    3,
    `${p95.toFixed(1)} ms of ${busy.length} against ${idle.toFixed(1)} ms idle`,
  );
}
