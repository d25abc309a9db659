/**
 * The Learners list of 20,000 learners, with filters and sorts and for each keystroke of a search,
 * against bare hand-written queries of the same rows on the same database.
 */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { DAY, startOfDay } from '@/core/time/zone';
import { PRAGMAS } from '@/data/db';
import { learnerList } from '@/server/people/learner-list';
import type { Runtime } from '@/server/runtime';
import { SYSTEM_VIEWER } from '@/server/system-viewer';
import { NOW, writeLog } from './data';
import { filled, importLog } from './import';
import { percentile, report, timed } from './measure';

const TIMES = 25;
const TODAY = Math.floor(NOW / DAY);

/** What is on a row: the same for every bare query. */
const COLUMNS = `l.external_id, l.given_name, l.family_name, l.email, l.phone, o.name AS organisation, a.last_at, a.ms, d.score,
  (SELECT json_group_array(c.code) FROM enrolment e JOIN course c ON c.id = e.course_id
   WHERE e.learner_id = l.id AND e.status = 'active') AS courses,
  (SELECT max(at) FROM contact_attempt WHERE learner_id = l.id) AS contact_at`;
const FROM = `FROM learner l LEFT JOIN organisation o ON o.id = l.organisation_id
  LEFT JOIN (SELECT learner_id, max(last_at) AS last_at, sum(ms) AS ms FROM learner_course GROUP BY 1) a ON a.learner_id = l.id
  LEFT JOIN (SELECT e.learner_id, 0.6 * max(r.score) + 0.4 * avg(r.score) AS score, max(r.band) AS band FROM enrolment e
    JOIN drift_reading r ON r.enrolment_id = e.id AND r.day = @day WHERE e.status = 'active' GROUP BY 1) d ON d.learner_id = l.id
  WHERE EXISTS (SELECT 1 FROM enrolment e WHERE e.learner_id = l.id AND e.status = 'active')`;

interface Case {
  name: string;
  ask: Record<string, string>;
  where?: string;
  order: string;
}

const NAME = "l.family_name || ' ' || l.given_name COLLATE NOCASE, l.id";
const TEXT =
  "(l.given_name || ' ' || l.family_name || ' ' || l.external_id || ' ' || ifnull(l.email, '') || ' ' || ifnull(l.phone, ''))";

const CASES: Case[] = [
  { name: 'by name', ask: {}, order: NAME },
  {
    name: 'quiet 7 days or more, quietest first',
    ask: { quiet: '7', sort: '-days_quiet' },
    where: `AND (a.last_at IS NULL OR a.last_at < ${startOfDay(TODAY - 6, 'Europe/Dublin')})`,
    order: 'a.last_at NULLS FIRST, l.id',
  },
  {
    name: 'adrift, by drift',
    ask: { band: 'adrift', sort: '-drift' },
    where: 'AND d.band = 2',
    order: 'd.score DESC, l.id',
  },
  {
    name: 'never accessed, not contacted for 14 days, by time online',
    ask: { never: 'yes', not_contacted: '14', sort: '-minutes_online' },
    where: `AND a.last_at IS NULL AND l.id NOT IN (SELECT learner_id FROM contact_attempt WHERE at >= ${startOfDay(TODAY - 13, 'Europe/Dublin')})`,
    order: 'ifnull(a.ms, 0) DESC, l.id',
  },
  ...['f', 'fa', 'family12', 'b199', 'given7 partner'].map((q) => ({
    name: `search “${q}”`,
    ask: { q },
    where: q
      .split(' ')
      .map((word) => `AND ${TEXT} LIKE '%${word}%'`)
      .join(' '),
    order: NAME,
  })),
];

export async function benchLearners(learners: number, rows: number): Promise<void> {
  const dir = mkdtempSync(join(tmpdir(), 'lee-shore-bench-'));
  try {
    const runtime = await filled(join(dir, 'data'), learners);
    const path = join(dir, 'log.csv');
    await writeLog(path, learners, rows);
    await importLog(runtime, path);
    await measure(runtime, join(dir, 'data', 'lee-shore.sqlite'), learners);
    await runtime.db.destroy();
  } finally {
    rmSync(dir, { recursive: true, force: true });
  }
}

async function measure(runtime: Runtime, file: string, learners: number): Promise<void> {
  const raw = new Database(file, { readonly: true });
  for (const pragma of PRAGMAS.slice(3)) raw.pragma(pragma);
  for (const { name, ask, where = '', order } of CASES) {
    const page = raw.prepare(`SELECT ${COLUMNS} ${FROM} ${where} ORDER BY ${order} LIMIT 25`);
    const count = raw.prepare(`SELECT count(*) AS n ${FROM} ${where}`);
    // The page alone: the list also says how many there are in all.
    const bare = () => page.all({ day: TODAY });
    const list = () => learnerList(runtime, SYSTEM_VIEWER, { ...ask, limit: '25' });
    const ours = await list();
    const { n } = count.get({ day: TODAY }) as { n: number };
    const same =
      JSON.stringify(ours.rows.map((row) => row.learner_id)) ===
      JSON.stringify((bare() as { external_id: string }[]).map((row) => row.external_id));
    if (ours.total !== n || !same)
      throw new Error(`${name}: ${ours.total} learners, the bare query has ${n}, and other rows`);
    const spent: [number[], number[]] = [[], []];
    // In turns, so that a slow moment of the machine falls on both.
    for (let i = 0; i < TIMES; i += 1) {
      spent[0].push((await timed(list)).ms);
      spent[1].push((await timed(bare)).ms);
    }
    const [a, b] = spent.map((values) => percentile(values, 0.5));
    report(
      `Learners list of ${learners}, ${name}`,
      a / b,
      3,
      `${a.toFixed(1)} ms against ${b.toFixed(1)} ms, ${ours.total} found`,
    );
  }
  raw.close();
}
