/** Whole calls over HTTP on an institution's term of work, beside a bare query of what each of them goes through. */
import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import Database from 'better-sqlite3';
import { NOW } from './data';
import { percentile, repeat, report, timed } from './measure';
import { HEAD, bringIn, fill, learnerOf, line, openBench, results } from './work-data';

const PORT = 4499;
const TOKEN = 'of-this-bench-alone';
const TIMES = 7;
const PLAN = { courses: 200, learners: 50, group: 25, items: 50 };

/** A call, and a plain query that reads the rows which it has to look at. */
const CALLS: readonly [path: string, bare: string][] = [
  [
    'watch',
    'SELECT e.learner_id, max(r.score), max(r.band), min(r.days_away) FROM enrolment e JOIN drift_reading r ON r.enrolment_id = e.id AND r.day = (SELECT max(day) FROM drift_reading) GROUP BY 1 ORDER BY 3 DESC, 2 DESC LIMIT 100',
  ],
  [
    'drift',
    'SELECT e.learner_id, r.score, r.reasons FROM enrolment e JOIN drift_reading r ON r.enrolment_id = e.id AND r.day = (SELECT max(day) FROM drift_reading) ORDER BY r.score DESC LIMIT 100',
  ],
  [
    'courses',
    'SELECT course_id, count(*), total(json_array_length(open_dues)), total(done) FROM enrolment e JOIN enrolment_progress s ON s.enrolment_id = e.id GROUP BY 1',
  ],
  [
    'progress?course=C0',
    'SELECT * FROM item i JOIN enrolment e ON e.course_id = i.course_id LEFT JOIN attempt a ON a.item_id = i.id AND a.learner_id = e.learner_id WHERE i.course_id = 1',
  ],
  [
    'progress?limit=60',
    'SELECT * FROM enrolment e JOIN learner l ON l.id = e.learner_id ORDER BY family_name, given_name LIMIT 60',
  ],
  [
    'work-due?course=C0',
    'SELECT * FROM item i JOIN enrolment e ON e.course_id = i.course_id LEFT JOIN attempt a ON a.item_id = i.id AND a.learner_id = e.learner_id WHERE i.course_id = 1',
  ],
  [
    'work-due?state=any_overdue',
    'SELECT count(*) FROM enrolment e JOIN item i ON i.course_id = e.course_id WHERE i.due_at < 9e15 AND NOT EXISTS (SELECT 1 FROM attempt a WHERE a.item_id = i.id AND a.learner_id = e.learner_id)',
  ],
  [
    'work-due',
    'SELECT count(*) FROM enrolment e JOIN item i ON i.course_id = e.course_id LEFT JOIN attempt a ON a.item_id = i.id AND a.learner_id = e.learner_id',
  ],
  [
    'to-grade',
    'SELECT * FROM attempt WHERE submitted_at IS NOT NULL AND score IS NULL ORDER BY submitted_at LIMIT 100',
  ],
  [
    'grades?course=C0',
    'SELECT a.learner_id, i.category, sum(a.score), sum(a.points) FROM item i JOIN attempt a ON a.item_id = i.id WHERE i.course_id = 1 GROUP BY 1, 2',
  ],
  ['grades/changes', 'SELECT * FROM attempt WHERE graded_at IS NOT NULL ORDER BY graded_at DESC LIMIT 100'],
  [
    'group-grades?course=C0',
    'SELECT e.group_id, avg(a.score) FROM item i JOIN attempt a ON a.item_id = i.id JOIN enrolment e ON e.learner_id = a.learner_id AND e.course_id = i.course_id WHERE i.course_id = 1 GROUP BY 1',
  ],
  [
    `history?learner=${learnerOf(0, 7)}&course=C0`,
    'SELECT * FROM attempt a JOIN item i ON i.id = a.item_id WHERE i.course_id = 1 AND a.learner_id = (SELECT learner_id FROM enrolment WHERE course_id = 1 LIMIT 1)',
  ],
  [
    `learner-items?learner=${learnerOf(0, 7)}&course=C0`,
    'SELECT * FROM attempt a JOIN item i ON i.id = a.item_id WHERE i.course_id = 1 AND a.learner_id = (SELECT learner_id FROM enrolment WHERE course_id = 1 LIMIT 1)',
  ],
  [
    'learners?sort=-overdue',
    'SELECT learner_id, total(json_array_length(open_dues)) FROM enrolment e JOIN enrolment_progress s ON s.enrolment_id = e.id GROUP BY 1 ORDER BY 2 DESC LIMIT 100',
  ],
];

export async function benchCalls(): Promise<void> {
  const dir = mkdtempSync(join(tmpdir(), 'lee-shore-bench-'));
  const runtime = await openBench(dir);
  await fill(runtime, PLAN);
  await bringIn(runtime, 'results', `${HEAD}\n${[...results(PLAN)].map(line).join('\n')}\n`);
  const { dataDir } = runtime.settings;
  await runtime.db.destroy();
  const server = spawn('node', ['scripts/start.mjs'], {
    env: {
      ...process.env,
      PORT: String(PORT),
      LEESHORE_DATA_DIR: dataDir,
      LEESHORE_NOW: new Date(NOW).toISOString(),
      LEESHORE_TIMEZONE: 'Europe/Dublin',
      LEESHORE_API_TOKEN: TOKEN,
      LEESHORE_LOG: 'warn',
    },
    stdio: ['ignore', 'ignore', 'inherit'],
  });
  const raw = new Database(join(dataDir, 'lee-shore.sqlite'), { readonly: true });
  const ask = async (path: string) => {
    const answer = await fetch(`http://127.0.0.1:${PORT}/api/v1/${path}`, {
      headers: { authorization: `Bearer ${TOKEN}` },
    });
    const text = await answer.text();
    if (!answer.ok) throw new Error(`${path}: ${answer.status} ${text.slice(0, 200)}`);
    return text.length;
  };
  try {
    for (let i = 0; i < 60 && !(await ask('health').catch(() => 0)); i += 1) await pause(500);
    for (const [path, sql] of CALLS) {
      const { ms: first, value: length } = await timed(() => ask(path));
      const call = percentile(await repeat(TIMES, () => ask(path)), 0.5);
      const bare = percentile(await repeat(TIMES, async () => raw.prepare(sql).raw().all()), 0.5);
      console.log(
        `     ${path}: ${(call / bare).toFixed(1)}× · ${call.toFixed(0)} ms (the first ${first.toFixed(0)} ms, ${Math.round(length / 1000)} kB) beside ${bare.toFixed(1)} ms`,
      );
    }
    await besideExports(ask);
  } finally {
    raw.close();
    server.kill();
    rmSync(dir, { recursive: true, force: true });
  }
}

/** Ten files of whole lists at a time: as a colleague's work of an evening. */
const EXPORTS = ['learners?', 'progress?course=C0&', 'work-due?', 'grades?course=C1&', 'courses?'].flatMap((list) => [
  `${list}format=csv`,
  `${list}format=xlsx`,
]);

/** The Watch of somebody while others have ten lists made into files, over and over. */
async function besideExports(ask: (path: string) => Promise<number>): Promise<void> {
  const idle = percentile(await repeat(TIMES * 3, () => ask('watch')), 0.95);
  let going = true;
  let files = 0;
  const exporting = EXPORTS.map(async (path) => {
    for (; going; files += 1) await ask(path);
  });
  await pause(3000);
  const busy: number[] = [];
  for (let i = 0; i < TIMES * 3; i += 1) {
    busy.push((await timed(() => ask('watch'))).ms);
    await pause(100);
  }
  going = false;
  await Promise.all(exporting);
  const p95 = percentile(busy, 0.95);
  report(
    'Watch while ten lists are made into files, p95',
    p95 / idle,
    3,
    `${p95.toFixed(0)} ms (half of them under ${percentile(busy, 0.5).toFixed(0)} ms) against ${idle.toFixed(0)} ms idle, ${files} files`,
  );
}
