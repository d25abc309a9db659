/**
 * Reports: the first rows while one chooses against a bare query of them, a workbook against its CSV, paper by the page and by
 * its memory, and what the Watch takes meanwhile.
 */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { PassThrough, type Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import Database from 'better-sqlite3';
import { PRAGMAS } from '@/data/db';
import { readDefinition } from '@/server/reports/define';
import { reportFile } from '@/server/reports/files';
import { openReport } from '@/server/reports/open';
import { reportPdf } from '@/server/reports/paper/report-pdf';
import { previewOf } from '@/server/reports/preview';
import { READY_REPORTS, WHOLE_LEARNER } from '@/server/reports/ready';
import { askForRun, runOf } from '@/server/reports/runs';
import type { Runtime } from '@/server/runtime';
import { SYSTEM_VIEWER } from '@/server/system-viewer';
import { ask, serving, signedIn } from './engine';
import { percentile, peakOf, repeat, report, timed } from './measure';
import { HEAD, bringIn, fill, line, openBench, results, type Plan } from './work-data';

const PLAN = { courses: 1, learners: 2000, group: 50, items: 50 };
/** A course whose learners have a page each. */
const A_PAGE_EACH = { courses: 1, learners: 1000, group: 25, items: 12 };
/** A large institution. */
const LARGE = { courses: 20, learners: 1000, group: 50, items: 10 };
const TIMES = 15;

const CHOSEN = {
  per: 'enrolment',
  whose: { course: 'C0' },
  columns: ['name', 'group', 'last_access', 'progress', 'on_graded_work', 'overdue'],
  for: 'staff',
};

/** Every column that a row for an item has, up to thirty. */
const WIDE = {
  name: 'wide',
  per: 'item',
  whose: {},
  columns: [
    'learner_id',
    'name',
    'given_name',
    'family_name',
    'organisation',
    'courses',
    'last_access',
    'days_quiet',
    'minutes_online',
    'course',
    'course_title',
    'group',
    'enrolled_on',
    'course_status',
    'progress',
    'done',
    'required',
    'on_graded_work',
    'overdue',
    'unit',
    'item_id',
    'item',
    'kind',
    'state',
    'done_on',
    'due_at',
    'due_state',
    'submitted_at',
    'score',
    'percent',
  ],
  for: 'staff',
};

/** Reads a stream to its end. */
async function drained(stream: Readable): Promise<number> {
  let bytes = 0;
  const sink = new PassThrough();
  sink.on('data', (chunk: Buffer) => (bytes += chunk.length));
  await pipeline(stream, sink);
  return bytes;
}

async function benchPreview(runtime: Runtime, file: string): Promise<void> {
  const raw = new Database(file, { readonly: true });
  for (const pragma of PRAGMAS.slice(3)) raw.pragma(pragma);
  const page = raw.prepare(
    `SELECT l.given_name, l.family_name, g.name, lc.last_at, p.done, p.required, p.on_graded, p.open_dues
     FROM enrolment e JOIN learner l ON l.id = e.learner_id LEFT JOIN course_group g ON g.id = e.group_id
       LEFT JOIN learner_course lc ON lc.learner_id = e.learner_id AND lc.course_id = e.course_id
       LEFT JOIN enrolment_progress p ON p.enrolment_id = e.id
     WHERE e.status = 'active' AND e.course_id = (SELECT id FROM course WHERE code = 'C0')
     ORDER BY l.sort_key, l.id LIMIT 25`,
  );
  // What the page says beside its rows: how many learners there are.
  const count = raw.prepare(
    "SELECT count(DISTINCT learner_id) FROM enrolment WHERE status = 'active' AND course_id = (SELECT id FROM course WHERE code = 'C0')",
  );
  const ours = () => previewOf(runtime, SYSTEM_VIEWER, CHOSEN);
  const averaged = () => previewOf(runtime, SYSTEM_VIEWER, { ...CHOSEN, averages: 'course' });
  await repeat(3, ours);
  const spent: [number[], number[], number[]] = [[], [], []];
  for (let i = 0; i < TIMES; i += 1) {
    spent[0].push(...(await repeat(1, ours)));
    spent[1].push((await timed(() => [page.all(), count.get()])).ms);
    spent[2].push(...(await repeat(1, averaged)));
  }
  raw.close();
  const [a, b, c] = spent.map((values) => percentile(values, 0.5));
  report('first rows of a report of 2,000', a / b, 3, `${a.toFixed(1)} ms against ${b.toFixed(1)} ms`);
  report('a column chosen with averages of 2,000, of 200 ms', c / 200, 1, `${c.toFixed(0)} ms`);
}

async function open(runtime: Runtime, values: object) {
  const { definition } = await readDefinition(runtime, SYSTEM_VIEWER, values as never);
  return openReport(runtime, SYSTEM_VIEWER, definition);
}

async function benchWorkbook(runtime: Runtime, dir: string): Promise<void> {
  const wide = await open(runtime, WIDE);
  const csv = await timed(() => drained(reportFile(runtime, wide, 'csv')));
  const xlsx = await timed(() => drained(reportFile(runtime, wide, 'xlsx')));
  report(
    'a workbook of 100,000 rows and 30 columns against its CSV',
    xlsx.ms / csv.ms,
    4,
    `${(xlsx.ms / 1000).toFixed(1)} s against ${(csv.ms / 1000).toFixed(1)} s; ${(xlsx.value / 1e6).toFixed(1)} MB`,
  );
  const definition = join(dir, 'wide.json');
  writeFileSync(definition, JSON.stringify(WIDE));
  const peak = await peakOf(runtime, ['report', definition, '--format', 'xlsx']);
  report('its memory, of 250 MB', peak / 250, 1, `${peak.toFixed(0)} MB`);
}

async function benchPaper(runtime: Runtime, dir: string): Promise<void> {
  const { definition } = READY_REPORTS[WHOLE_LEARNER];
  const thousand = { ...definition, name: 'whole' };
  const pages = await open(runtime, thousand);
  let learners = 0;
  const paper = await timed(() =>
    drained(
      reportPdf(runtime, pages, {
        title: 'Whole',
        layout: 'pages',
        onLearner: async (done) => {
          learners = done;
          return true;
        },
      }),
    ),
  );
  const each = paper.ms / learners;
  report(
    `paper of ${learners} learners, of 60 ms each`,
    each / 60,
    1,
    `${each.toFixed(1)} ms each, ${(paper.ms / 1000).toFixed(1)} s, ${(paper.value / 1e6).toFixed(1)} MB`,
  );
  const file = join(dir, 'whole.json');
  writeFileSync(file, JSON.stringify(thousand));
  const peak = await peakOf(runtime, ['report', file, '--format', 'pdf', '--layout', 'pages']);
  report('its memory, of 400 MB', peak / 400, 1, `${peak.toFixed(0)} MB`);
}

/** What the Watch takes while a thousand pages are made beside it, against what it takes after. */
async function benchWatchMeanwhile(runtime: Runtime, dir: string): Promise<void> {
  const { definition, name } = READY_REPORTS[WHOLE_LEARNER];
  const dataDir = join(dir, 'data');
  const session = await signedIn(dataDir);
  const asked = { reportId: null, name, definition, format: 'pdf', layout: 'pages', total: 1000 } as const;
  await serving(dataDir, async () => {
    await repeat(5, () => ask('/watch', session));
    const idle = await repeat(40, () => ask('/watch', session));
    const id = await askForRun(runtime, SYSTEM_VIEWER, asked);
    const state = async () => (await runOf(runtime, SYSTEM_VIEWER, String(id))).state;
    while ((await state()) === 'waiting') await new Promise((resolve) => setTimeout(resolve, 50));
    const meanwhile: number[] = [];
    while ((await state()) === 'running') meanwhile.push(...(await repeat(1, () => ask('/watch', session))));
    if ((await state()) !== 'done') throw new Error('The report was not made');
    const [a, b] = [percentile(meanwhile, 0.95), percentile(idle, 0.95)];
    report(
      'the Watch, p95, while 1,000 pages are made',
      a / b,
      3,
      `${a.toFixed(0)} ms of ${meanwhile.length} against ${b.toFixed(0)} ms`,
    );
  });
}

/** The same rows by a report and by a list, over HTTP, and the page beside a list's, of 20,000 learners. */
async function benchOverHttp(_runtime: Runtime, dir: string): Promise<void> {
  const dataDir = join(dir, 'data');
  const session = await signedIn(dataDir);
  const chosen = 'per=learner&cols=name,phone,email,organisation,courses,last_access,days_quiet,last_contact&for=staff';
  const pairs = [
    ['rows as CSV', 'reports/who-is-quiet/rows?format=csv', 'learners?quiet=7&sort=-days_quiet&format=csv'],
    ['rows as XLSX', 'reports/who-is-quiet/rows?format=xlsx', 'learners?quiet=7&sort=-days_quiet&format=xlsx'],
    ['the page on which one is chosen', `/reports/choose?${chosen}`, '/learners'],
    ['the page of reports', '/reports', '/learners'],
    ['the columns', 'reports/columns', 'courses'],
  ] as const;
  await serving(dataDir, async () => {
    for (const [name, ours, list] of pairs) {
      const spent: [number[], number[]] = [[], []];
      await repeat(2, () => ask(ours, session));
      await repeat(2, () => ask(list, session));
      for (let i = 0; i < 9; i += 1) {
        spent[0].push(...(await repeat(1, () => ask(ours, session))));
        spent[1].push(...(await repeat(1, () => ask(list, session))));
      }
      const [a, b] = spent.map((values) => percentile(values, 0.5));
      report(`${name}, of 20,000, against ${list}`, a / b, 1.5, `${a.toFixed(0)} ms against ${b.toFixed(0)} ms`);
    }
  });
}

async function on(
  plan: Plan,
  work: (runtime: Runtime, dir: string) => Promise<void>,
  withResults = true,
): Promise<void> {
  const dir = mkdtempSync(join(tmpdir(), 'lee-shore-bench-'));
  try {
    const runtime = await openBench(dir);
    await fill(runtime, plan);
    if (withResults) await bringIn(runtime, 'results', `${HEAD}\n${[...results(plan)].map(line).join('\n')}\n`);
    await work(runtime, dir);
    await runtime.db.destroy();
  } finally {
    rmSync(dir, { recursive: true, force: true });
  }
}

export async function benchReports(): Promise<void> {
  await on(PLAN, async (runtime, dir) => {
    await benchPreview(runtime, join(dir, 'data', 'lee-shore.sqlite'));
    await benchWorkbook(runtime, dir);
  });
  await on(A_PAGE_EACH, async (runtime, dir) => {
    await benchPaper(runtime, dir);
    await benchWatchMeanwhile(runtime, dir);
  });
  await on(LARGE, benchOverHttp, false);
}
