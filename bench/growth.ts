/**
 * Whole calls over HTTP on ten times as much: ten times the learners, courses and events. What a call costs
 * is to follow what it shows, not how much is stored.
 */
import { existsSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { QUESTIONS, ask, serving, signedIn } from './engine';
import { institution, type Institution } from './institution';
import { percentile, repeat, report } from './measure';

const TIMES = 15;
const LIMIT = 1.3;
const PAGES = [
  '/watch',
  '/learners',
  '/learners/B121',
  '/learners/B121/everything',
  '/courses/reach?course=C0',
  `/courses/has?course=C0&item=${encodeURIComponent('C0-21')}`,
  '/courses/now?in=course:C0',
  '/access-log',
  '/follow-ups',
  '/set-up/roster',
  '/set-up/sources',
];

async function timesOn(dir: string, all: Institution): Promise<Map<string, number>> {
  if (!existsSync(join(dir, 'data'))) await (await institution(dir, all)).runtime.db.destroy();
  const data = join(dir, 'data');
  const session = await signedIn(data);
  return serving(data, async () => {
    const found = new Map<string, number>();
    const paths = [...QUESTIONS.map(({ path }) => path).filter((path) => !path.startsWith('/')), ...PAGES];
    for (const path of paths) {
      await repeat(3, () => ask(path, session));
      found.set(path, percentile(await repeat(TIMES, () => ask(path, session)), 0.5));
    }
    return found;
  });
}

export async function benchGrowth(rows: number): Promise<void> {
  const few = { learners: 2000, courses: 2, coursesEach: 2, rows };
  const many = { learners: 20_000, courses: 20, coursesEach: 2, rows: rows * 10 };
  const kept = process.env.BENCH_DIR;
  const dir = kept ?? mkdtempSync(join(tmpdir(), 'lee-shore-growth-'));
  try {
    const [a, b] = [await timesOn(join(dir, 'few'), few), await timesOn(join(dir, 'many'), many)];
    for (const [path, time] of b) {
      const before = a.get(path)!;
      report(
        `${path} of ten times as much`,
        time / before,
        LIMIT,
        `${time.toFixed(1)} ms against ${before.toFixed(1)} ms`,
      );
    }
  } finally {
    if (!kept) rmSync(dir, { recursive: true, force: true });
  }
}
