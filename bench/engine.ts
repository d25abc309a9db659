/**
 * Whole calls over HTTP beside an analytic engine in process, on the raw rows of the same log: what an
 * engineer would reach for instead. The engine scans; every answer here must be there at least as soon.
 */
import { spawn } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { DuckDBInstance, type DuckDBConnection } from '@duckdb/node-api';
import { staffByEmail } from '@/data/staff/staff';
import { SESSION_COOKIE } from '@/server/staff/sessions';
import { addAccount } from '@/server/staff/accounts';
import { giveScope } from '@/server/staff/staff-accounts';
import { SYSTEM_VIEWER } from '@/server/system-viewer';
import { openRuntime } from '@/server/runtime';
import { readSettings } from '@/server/settings';
import { ACTIONS, NOW } from './data';
import { institution, outlineOf, rosterOf, type Institution } from './institution';
import { percentile, repeat, report } from './measure';
import { tokenOf } from './sign-in';

const PORT = 4391;
const TIMES = 15;
const DAY = 86_400_000;

export interface Question {
  name: string;
  /** A call of the API; a whole page where it begins with a slash. */
  path: string;
  /** The same of the engine; null where only growth is measured. */
  sql: string;
  /** The engine's time is to be at least this many times ours. */
  times?: number;
}

const ITEM = 'C0-21';
const from = new Date(NOW - 21 * DAY).toISOString().slice(0, 10);
const to = new Date(NOW - 7 * DAY).toISOString().slice(0, 10);
const OPENS = "k.kind <> 'other'";
const BASE = "JOIN roster r ON r.learner_id = e.learner_id AND r.course = e.course AND r.course = 'C0'";
/** Grouped by item and learner first: counting distinct learners in one go takes the engine several times as long. */
const ITEM_USE = (
  where: string,
) => `WITH o AS (SELECT e.item_id, e.learner_id, count(*) AS n, min(e.time) AS first, max(e.time) AS last
    FROM log e ${BASE} JOIN kinds k USING (action) WHERE ${OPENS} AND e.course = 'C0' ${where} GROUP BY 1, 2)
  SELECT i.item_id, i.item, i.unit, i.kind, count(o.learner_id), sum(n), min(first), max(last), count(CASE WHEN last >= i.changed_at THEN 1 END)
  FROM outline i LEFT JOIN o USING (item_id) WHERE i.course = 'C0' GROUP BY ALL ORDER BY 1`;
const HAS = (where: string) => `SELECT r.learner_id, r.given_name, count(e.time), min(e.time), max(e.time), max(o.time)
  FROM roster r LEFT JOIN (SELECT * FROM log JOIN kinds k USING (action) WHERE ${where} AND time >= '${from}' AND time < '${to}') e ON e.learner_id = r.learner_id
  LEFT JOIN (SELECT learner_id, max(time) AS time FROM log JOIN kinds k USING (action) WHERE ${where} AND (time < '${from}' OR time >= '${to}') GROUP BY 1) o ON o.learner_id = r.learner_id
  WHERE r.course = 'C0' GROUP BY 1, 2, r.family_name ORDER BY r.family_name`;
const PAGE = (where: string) =>
  `SELECT time, e.learner_id, r.given_name, e.course, i.item, action FROM log e JOIN roster r ON r.learner_id = e.learner_id AND r.course = e.course
   LEFT JOIN outline i ON i.item_id = e.item_id WHERE ${where} ORDER BY time DESC LIMIT 100`;
const COUNT = (where: string) => `SELECT count(*) FROM log e WHERE ${where}`;
const both = (where: string) => `${PAGE(where)}; ${COUNT(where)}`;

const VISITS = `v AS (SELECT learner_id, time, sum(new) OVER (PARTITION BY learner_id ORDER BY time) AS visit FROM (
  SELECT learner_id, time, CASE WHEN time - lag(time) OVER (PARTITION BY learner_id ORDER BY time) > INTERVAL 30 MINUTE THEN 1 ELSE 0 END AS new FROM log))`;

export const QUESTIONS: Question[] = [
  { name: 'reach of a course', path: 'item-use?course=C0', sql: ITEM_USE('') },
  {
    name: 'reach of a period',
    path: `item-use?course=C0&from=${from}&to=${to}`,
    sql: ITEM_USE(`AND e.time >= '${from}' AND e.time < '${to}'`),
  },
  { name: 'reach of a group', path: 'item-use?course=C0&group=A', sql: ITEM_USE(`AND r."group" = 'A'`) },
  {
    name: 'has / has not, an item',
    path: `who-did?course=C0&item=${ITEM}&from=${from}&to=${to}`,
    sql: HAS(`item_id = '${ITEM}'`),
  },
  {
    name: 'has / has not, a kind of deed',
    path: `who-did?course=C0&kind=talked&from=${from}&to=${to}`,
    sql: HAS(`course = 'C0' AND item_id IS NOT NULL AND k.kind = 'talked'`),
  },
  {
    name: 'has / has not, a unit',
    path: `who-did?course=C0&unit=Week%204&from=${from}&to=${to}`,
    sql: HAS(`item_id IN (SELECT item_id FROM outline WHERE course = 'C0' AND unit = 'Week 4')`),
  },
  { name: 'the log', path: 'access-log', sql: both('true') },
  { name: 'the log of a course', path: 'access-log?course=C0', sql: both(`e.course = 'C0'`) },
  {
    name: 'the log of a group',
    path: 'access-log?course=C0&group=A',
    sql: both(
      `e.course = 'C0' AND e.learner_id IN (SELECT learner_id FROM roster WHERE "group" = 'A' AND course = 'C0')`,
    ),
  },
  { name: 'the log of a learner', path: 'access-log?learner=B121', sql: both(`e.learner_id = 'B121'`) },
  { name: 'the log of an item', path: `access-log?course=C0&item=${ITEM}`, sql: both(`e.item_id = '${ITEM}'`) },
  { name: 'the log of an action', path: 'access-log?action=posted', sql: both(`e.action = 'posted'`) },
  {
    name: 'the log of a period',
    path: `access-log?from=${from}&to=${to}`,
    sql: both(`e.time >= '${from}' AND e.time < '${to}'`),
  },
  {
    name: 'visits of a learner',
    path: 'visits?learner=B121',
    sql: `WITH g AS (SELECT time, course, CASE WHEN time - lag(time) OVER (ORDER BY time) > INTERVAL 30 MINUTE THEN 1 ELSE 0 END AS new FROM log WHERE learner_id = 'B121'),
      v AS (SELECT *, sum(new) OVER (ORDER BY time) AS visit FROM g)
      SELECT visit, min(time), max(time), count(*), list(DISTINCT course) FROM v GROUP BY 1 ORDER BY 1 DESC`,
  },
  {
    name: 'learners, by last access',
    path: 'learners?sort=-days_quiet&limit=100',
    times: 5,
    sql: `WITH ${VISITS},
      m AS (SELECT learner_id, sum(ms) AS ms FROM (SELECT learner_id, visit, epoch_ms(max(time)) - epoch_ms(min(time)) AS ms FROM v GROUP BY 1, 2) GROUP BY 1),
      l AS (SELECT learner_id, max(time) AS last FROM log GROUP BY 1)
      SELECT DISTINCT r.learner_id, r.given_name, l.last, m.ms FROM roster r LEFT JOIN l USING (learner_id) LEFT JOIN m USING (learner_id) ORDER BY l.last NULLS FIRST LIMIT 100`,
  },
  {
    // The engine's part: last access, active days and minutes of 28 days of everybody, which drift begins with.
    name: 'the Watch, as a page',
    path: '/watch',
    times: 5,
    sql: `WITH ${VISITS},
      d AS (SELECT learner_id, CAST(start AS DATE) AS day, sum(ms) AS ms FROM (SELECT learner_id, visit, min(time) AS start, epoch_ms(max(time)) - epoch_ms(min(time)) AS ms FROM v GROUP BY 1, 2) GROUP BY 1, 2),
      l AS (SELECT learner_id, max(day) AS last, count(*) FILTER (day >= DATE '${from}') AS days, sum(ms) FILTER (day >= DATE '${from}') AS ms FROM d GROUP BY 1)
      SELECT DISTINCT r.learner_id, r.given_name, l.* FROM roster r LEFT JOIN l USING (learner_id) ORDER BY l.last NULLS FIRST, l.days, l.ms LIMIT 40`,
  },
  {
    name: 'everything of a learner, as a page',
    path: '/learners/B121/everything',
    sql: `${both(`e.learner_id = 'B121'`)}; SELECT CAST(time AS DATE) AS day, course, count(*), min(time), max(time) FROM log WHERE learner_id = 'B121' GROUP BY 1, 2 ORDER BY 1;
      SELECT isodow(time), hour(time), count(*) FROM log WHERE learner_id = 'B121' GROUP BY 1, 2`.replace(
      /\n\s*/g,
      ' ',
    ),
  },
  {
    name: 'right now, as a page',
    path: '/courses/now?in=course:C0',
    sql: `SELECT e.learner_id, r.given_name, max(time), arg_max(i.item, time), min(time) FROM log e JOIN roster r ON r.learner_id = e.learner_id AND r.course = e.course
      LEFT JOIN outline i ON i.item_id = e.item_id WHERE e.course = 'C0' AND time >= '${new Date(NOW - DAY / 48).toISOString()}' GROUP BY 1, 2`,
  },
];

/** A session of a lead, or of an instructor who sees one course alone. */
export async function signedIn(dataDir: string, course?: string): Promise<string> {
  const runtime = await openRuntime(
    readSettings({ LEESHORE_DATA_DIR: dataDir, LEESHORE_NOW: new Date(NOW).toISOString(), LEESHORE_LOG: 'warn' }),
  );
  const role = course === undefined ? 'lead' : 'instructor';
  const person = { email: `${role}@staff.example`, password: 'a-password-for-measuring', given_name: role };
  await addAccount(runtime, { ...person, role });
  if (course !== undefined) {
    const { id } = (await staffByEmail(runtime.db, person.email))!;
    await giveScope(runtime, SYSTEM_VIEWER, id, { kind: 'course', target: course });
  }
  const token = await tokenOf(runtime, person);
  await runtime.db.destroy();
  return token;
}

async function openEngine(dir: string, log: string, all: Institution): Promise<DuckDBConnection> {
  writeFileSync(join(dir, 'outline.csv'), outlineOf(all));
  writeFileSync(join(dir, 'roster.csv'), rosterOf(all));
  const connection = await (await DuckDBInstance.create(':memory:')).connect();
  await connection.run(`CREATE TABLE log AS SELECT * FROM read_csv('${log}', header = true)`);
  for (const name of ['outline', 'roster']) {
    await connection.run(
      `CREATE TABLE ${name} AS SELECT * FROM read_csv('${join(dir, `${name}.csv`)}', header = true)`,
    );
  }
  const kinds = ['looked', 'looked', 'looked', 'worked', 'worked', 'worked', 'talked', 'other'];
  await connection.run('CREATE TABLE kinds (action VARCHAR, kind VARCHAR)');
  for (const [i, word] of ACTIONS.entries())
    await connection.run(`INSERT INTO kinds VALUES ('${word}', '${kinds[i]}')`);
  return connection;
}

/** A whole call: a page as its path, a call of the API as what comes after its address. */
export async function ask(path: string, session: string, port = PORT): Promise<void> {
  const answer = await fetch(`http://127.0.0.1:${port}${path.startsWith('/') ? path : `/api/v1/${path}`}`, {
    headers: { cookie: `${SESSION_COOKIE}=${session}` },
    redirect: 'error',
  });
  const body = await answer.text();
  if (!answer.ok) throw new Error(`${path} answered ${answer.status}: ${body}`);
}

/** Waits until nothing is left to be derived or read anew. */
async function allDerived(dataDir: string): Promise<void> {
  const { db } = await openRuntime(readSettings({ LEESHORE_DATA_DIR: dataDir, LEESHORE_LOG: 'warn' }));
  for (;;) {
    await pause(2000);
    const left = await Promise.all(['touched', 'drift_stale'].map((table) => db(table).first(db.raw('1'))));
    if (left.every((row) => row === undefined)) break;
  }
  await db.destroy();
}

/** The application as it is run, on a folder of data. */
export async function serving<T>(dataDir: string, work: () => Promise<T>, port = PORT): Promise<T> {
  const app = spawn('node', ['node_modules/next/dist/bin/next', 'start', '-H', '127.0.0.1', '-p', String(port)], {
    env: {
      ...process.env,
      NODE_ENV: 'production',
      LEESHORE_DATA_DIR: dataDir,
      LEESHORE_NOW: new Date(NOW).toISOString(),
      LEESHORE_LOG: 'warn',
    },
    stdio: ['ignore', 'ignore', 'inherit'],
  });
  try {
    for (let tries = 0; tries < 100; tries += 1) {
      const ok = await fetch(`http://127.0.0.1:${port}/api/v1/health`).then(
        (answer) => answer.ok,
        () => false,
      );
      if (ok) break;
      await pause(200);
    }
    // What is left of making the data is done first.
    await allDerived(dataDir);
    return await work();
  } finally {
    app.kill('SIGTERM');
    await new Promise((resolve) => app.on('exit', resolve));
  }
}

export async function benchEngine(rows: number): Promise<void> {
  const all = { learners: 2000, courses: 2, coursesEach: 2, rows };
  const kept = process.env.BENCH_DIR;
  const dir = kept ?? mkdtempSync(join(tmpdir(), 'lee-shore-engine-'));
  try {
    let log = join(dir, 'log.csv');
    if (!existsSync(log)) {
      const made = await institution(dir, all);
      log = made.log;
      await made.runtime.db.destroy();
    }
    const session = await signedIn(join(dir, 'data'));
    const engine = await openEngine(dir, log, all);
    await serving(join(dir, 'data'), async () => {
      for (const { name, path, sql, times = 1 } of QUESTIONS) {
        const [ours, theirs]: [number[], number[]] = [[], []];
        const query = async () => {
          for (const one of sql.split('; ')) await (await engine.runAndReadAll(one)).getRows();
        };
        await repeat(3, () => ask(path, session));
        await repeat(2, query);
        // In turns, so that a slow moment of the machine falls on both.
        for (let i = 0; i < TIMES; i += 1) {
          ours.push(...(await repeat(1, () => ask(path, session))));
          theirs.push(...(await repeat(1, query)));
        }
        const [a, b] = [percentile(ours, 0.5), percentile(theirs, 0.5)];
        report(
          `${name}, over HTTP against the engine`,
          a / b,
          1 / times,
          `${a.toFixed(1)} ms against ${b.toFixed(1)} ms`,
        );
      }
    });
    engine.closeSync();
  } finally {
    if (!kept) rmSync(dir, { recursive: true, force: true });
  }
}
