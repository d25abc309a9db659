/** Work and grades: a file of results against plain inserts, what one hand-in costs, grids against bare queries. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { HOUR } from '@/core/time/zone';
import { PRAGMAS, withRaw } from '@/data/db';
import { PROGRESS, progress } from '@/server/completion/progress-list';
import { GRADES } from '@/server/grades/grades-list';
import { SYSTEM_VIEWER } from '@/server/system-viewer';
import { NOW } from './data';
import { percentile, repeat, report } from './measure';
import { HEAD, START, bringIn, fill, iso, itemOf, learnerOf, line, openBench, results, type Row } from './work-data';

const TIMES = 15;
/** The same rows with the same indexes, by one prepared statement. */
function plain(rows: readonly Row[]): number {
  const raw = new Database(':memory:');
  for (const pragma of PRAGMAS) raw.pragma(pragma);
  raw.exec(`CREATE TABLE attempt (id INTEGER PRIMARY KEY, learner_id INTEGER, item_id INTEGER, number INTEGER, started_at INTEGER,
      submitted_at INTEGER, score REAL, points REAL, graded_at INTEGER, grader TEXT, feedback TEXT, source TEXT, UNIQUE (learner_id, item_id, number));
    CREATE INDEX a ON attempt (item_id, learner_id); CREATE INDEX b ON attempt (graded_at) WHERE graded_at IS NOT NULL;
    CREATE INDEX c ON attempt (item_id, submitted_at) WHERE submitted_at IS NOT NULL AND score IS NULL;`);
  const insert = raw.prepare(
    `INSERT INTO attempt (learner_id, item_id, number, started_at, submitted_at, score, points, graded_at, source) VALUES (?, ?, 1, ?, ?, ?, 20, ?, 'file')`,
  );
  const began = performance.now();
  raw.transaction(() => {
    for (const [learner, course, item, submitted, score] of rows)
      insert.run(
        course * 10_000 + Number(learner.split('-')[1]),
        course * 1000 + item,
        submitted - HOUR,
        submitted,
        score,
        submitted,
      );
  })();
  const ms = performance.now() - began;
  raw.close();
  return ms;
}

async function benchResults(dir: string): Promise<void> {
  const plan = { courses: 200, learners: 50, group: 25, items: 50 };
  const runtime = await openBench(dir);
  await fill(runtime, plan);
  const rows = [...results(plan)];
  const taken = await bringIn(runtime, 'results', `${HEAD}\n${rows.map(line).join('\n')}\n`);
  // One of three: the first runs while what the import left is cleared away.
  const bare = percentile([plain(rows), plain(rows), plain(rows)], 0.5);
  const stages = await withRaw(runtime.db, (raw) => raw.prepare('SELECT count(*) FROM drift_reading').pluck().get());
  report(
    `results, ${rows.length} rows with standings and drift of ${plan.courses * plan.learners} enrolments`,
    taken / bare,
    3,
    `${Math.round(taken)} ms beside ${Math.round(bare)} ms; ${String(stages)} readings`,
  );
  await runtime.db.destroy();
}

async function benchOne(dir: string): Promise<void> {
  const runtime = await openBench(dir);
  const [small, large] = [
    { courses: 1, learners: 20, group: 20, items: 50 },
    { courses: 1, learners: 2000, group: 20, items: 50 },
  ];
  await fill(runtime, small, 0);
  await fill(runtime, large, 1);
  for (const [plan, from] of [
    [small, 0],
    [large, 1],
  ] as const)
    await bringIn(runtime, 'results', `${HEAD}\n${[...results(plan, from)].map(line).join('\n')}\n`);
  let score = 0;
  const handIn = (course: number) => async () => {
    score += 1;
    const row: Row = [learnerOf(course, 7), course, 3, NOW - 2 * HOUR - score * 1000, score % 20];
    await bringIn(runtime, 'results', `${HEAD}\n${line(row).replace(',1,', `,${score + 1},`)}\n`);
  };
  const spent: [number[], number[]] = [[], []];
  for (let i = 0; i < TIMES; i += 1) {
    spent[0].push(...(await repeat(1, handIn(0))));
    spent[1].push(...(await repeat(1, handIn(1))));
  }
  const [few, many] = spent.map((values) => percentile(values, 0.5));
  report(
    'one hand-in taken and all it touches derived, in a course of 2,000 against one of 20',
    many / few,
    1.5,
    `${many.toFixed(1)} ms against ${few.toFixed(1)} ms`,
  );

  const raw = new Database(join(runtime.settings.dataDir, 'lee-shore.sqlite'), { readonly: true });
  const aggregate = raw.prepare(
    `SELECT a.learner_id, i.category, sum(a.score), sum(a.points), count(*) FROM item i JOIN attempt a ON a.item_id = i.id
     JOIN enrolment e ON e.learner_id = a.learner_id AND e.course_id = i.course_id WHERE i.course_id = 2 GROUP BY 1, 2`,
  );
  const whole = percentile(
    await repeat(TIMES, () => GRADES.read(runtime, SYSTEM_VIEWER, { course: 'C1', limit: '60', sort: 'graded' })),
    0.5,
  );
  const bare = percentile(await repeat(TIMES, async () => aggregate.all()), 0.5);
  report(
    'grades of a course of 2,000, all three means of everybody',
    whole / bare,
    4,
    `${whole.toFixed(1)} ms beside a bare aggregate of ${bare.toFixed(1)} ms`,
  );
  raw.close();
  await runtime.db.destroy();
}

async function benchGrid(dir: string): Promise<void> {
  const runtime = await openBench(dir);
  const plan = { courses: 1, learners: 1000, group: 50, items: 300 };
  await fill(runtime, plan);
  const log = ['time,learner_id,course,item_id,action'];
  for (let l = 0; l < plan.learners; l += 1)
    for (let i = 0; i < plan.items; i += 1)
      if ((l + i) % 4 !== 0)
        log.push(`${iso(START + ((l * 300 + i) % 6_000_000) * 1000)},${learnerOf(0, l)},C0,${itemOf(0, i)},opened`);
  await bringIn(runtime, 'access-log', `${log.join('\n')}\n`);
  await bringIn(runtime, 'results', `${HEAD}\n${[...results({ ...plan, items: 150 })].map(line).join('\n')}\n`);
  const raw = new Database(join(runtime.settings.dataDir, 'lee-shore.sqlite'), { readonly: true });
  const cells = raw.prepare(
    `SELECT e.learner_id, i.id, i.kind, i.due_at, (SELECT total(opens) FROM item_day d WHERE d.learner_id = e.learner_id AND d.item_id = i.id),
       (SELECT max(score) FROM attempt a WHERE a.learner_id = e.learner_id AND a.item_id = i.id)
     FROM (SELECT e.learner_id, e.course_id FROM enrolment e JOIN learner l ON l.id = e.learner_id WHERE e.course_id = 1 ORDER BY l.family_name, l.given_name LIMIT 60) e
       JOIN item i ON i.course_id = e.course_id ORDER BY i.position`,
  );
  const page = percentile(
    await repeat(TIMES, () => progress(runtime, SYSTEM_VIEWER, { course: 'C0', limit: '60' })),
    0.5,
  );
  const bare = percentile(await repeat(TIMES, async () => cells.raw().all()), 0.5);
  report(
    'progress of 1,000 learners by 300 items, its first page of 60',
    page / bare,
    3,
    `${page.toFixed(1)} ms beside a bare query of its cells of ${bare.toFixed(1)} ms`,
  );
  const sorted = percentile(
    await repeat(TIMES, () => PROGRESS.read(runtime, SYSTEM_VIEWER, { course: 'C0', limit: '60', sort: '-behind' })),
    0.5,
  );
  console.log(`     the same by who is furthest behind plan: ${sorted.toFixed(1)} ms`);
  raw.close();
  await runtime.db.destroy();
}

export async function benchWork(): Promise<void> {
  for (const bench of [benchResults, benchOne, benchGrid]) {
    const dir = mkdtempSync(join(tmpdir(), 'lee-shore-bench-'));
    try {
      await bench(dir);
    } finally {
      rmSync(dir, { recursive: true, force: true });
    }
  }
}
