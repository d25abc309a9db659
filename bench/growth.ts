/**
 * Whole calls over HTTP on ten times as much: ten times the learners, courses and events. What a call costs
 * is to follow what it shows, not how much is stored: so both are asked by an instructor of one course, which
 * has as many learners and events in the one as in the other.
 */
import { existsSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { QUESTIONS, ask, serving, signedIn } from './engine';
import { institution, type Institution } from './institution';
import { percentile, repeat, report } from './measure';

const TIMES = 25;
const LIMIT = 1.3;
const PORTS = [4391, 4392] as const;
/** Of the course in both. */
const LEARNER = 'B120';
const PAGES = [
  '/watch',
  '/learners',
  `/learners/${LEARNER}`,
  `/learners/${LEARNER}/everything`,
  '/courses/item-use?course=C0',
  `/courses/who-did?course=C0&item=${encodeURIComponent('C0-21')}`,
  '/courses/now?in=course:C0',
  '/access-log',
  '/follow-ups',
];

async function dataOf(dir: string, all: Institution): Promise<string> {
  if (!existsSync(join(dir, 'data'))) await (await institution(dir, all)).runtime.db.destroy();
  return join(dir, 'data');
}

export async function benchGrowth(rows: number): Promise<void> {
  const kept = process.env.BENCH_DIR;
  const dir = kept ?? mkdtempSync(join(tmpdir(), 'lee-shore-growth-'));
  const asked = QUESTIONS.map(({ path }) => path.replace(/learner=\w+/, `learner=${LEARNER}`));
  const paths = [...asked.filter((path) => !path.startsWith('/')), ...PAGES];
  try {
    const few = await dataOf(join(dir, 'few'), { learners: 2000, courses: 2, coursesEach: 2, rows });
    const many = await dataOf(join(dir, 'many'), { learners: 20_000, courses: 20, coursesEach: 2, rows: rows * 10 });
    const sessions = [await signedIn(few, 'C0'), await signedIn(many, 'C0')];
    const compare = async () => {
      for (const path of paths) {
        const times: [number[], number[]] = [[], []];
        for (const which of [0, 1]) await repeat(3, () => ask(path, sessions[which], PORTS[which]));
        // In turns, so that a slow moment of the machine falls on both.
        for (let i = 0; i < TIMES; i += 1)
          for (const which of [0, 1])
            times[which].push(...(await repeat(1, () => ask(path, sessions[which], PORTS[which]))));
        const [a, b] = times.map((some) => percentile(some, 0.5));
        report(`${path} of ten times as much`, b / a, LIMIT, `${b.toFixed(1)} ms against ${a.toFixed(1)} ms`);
      }
    };
    await serving(few, () => serving(many, compare, PORTS[1]), PORTS[0]);
  } finally {
    if (!kept) rmSync(dir, { recursive: true, force: true });
  }
}
