/** Importing a million rows against a plain prepared-statement insert of the same rows. */
import { createReadStream, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { PRAGMAS } from '@/data/db';
import { findRun } from '@/data/imports/import-runs';
import { workOnNext } from '@/server/imports/queue';
import { receiveFile } from '@/server/imports/receive';
import { makeOwner } from '@/server/owner';
import { openRuntime, type Runtime } from '@/server/runtime';
import { readSettings } from '@/server/settings';
import { SYSTEM_VIEWER } from '@/server/system-viewer';
import { Readable } from 'node:stream';
import { NOW, logRows, outlineFile, rosterFile, writeLog } from './data';
import { peakOf, report, timed } from './measure';

/** About as many rows as the importer takes at a time. */
const BATCH = 7000;

/** One table with the event table's columns and indexes, the same pragmas, the same batches. */
function plainInsert(file: string, learners: number, rows: number): void {
  const raw = new Database(file);
  for (const pragma of PRAGMAS) raw.pragma(pragma);
  raw.exec(`CREATE TABLE event (id INTEGER PRIMARY KEY, at INTEGER NOT NULL, learner_id INTEGER, staff_id INTEGER,
    course_id INTEGER NOT NULL, item_id INTEGER, action_id INTEGER NOT NULL, address TEXT, source_id INTEGER NOT NULL, external_id TEXT);
    CREATE INDEX event_learner ON event (learner_id, at, id, course_id, item_id, action_id) WHERE learner_id IS NOT NULL;
    CREATE INDEX event_staff ON event (staff_id, at) WHERE staff_id IS NOT NULL;
    CREATE INDEX event_at ON event (at);
    CREATE INDEX event_course ON event (course_id, at, id, action_id, learner_id);
    CREATE INDEX event_item ON event (item_id, at, id, action_id, learner_id) WHERE item_id IS NOT NULL;
    CREATE INDEX event_action ON event (action_id, at);
    CREATE UNIQUE INDEX event_external ON event (source_id, external_id) WHERE external_id IS NOT NULL;`);
  const insert = raw.prepare(
    `INSERT INTO event (at, learner_id, staff_id, course_id, item_id, action_id, address, source_id, external_id)
     VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)`,
  );
  let count = 0;
  raw.exec('BEGIN');
  for (const row of logRows(learners, rows)) {
    insert.run(row.at, row.learner, null, 1, row.item, row.action, row.address, 1, null);
    if (++count % BATCH === 0) raw.exec('COMMIT; BEGIN');
  }
  raw.exec('COMMIT');
  raw.close();
}

export async function filled(dir: string, learners: number): Promise<Runtime> {
  const settings = readSettings({
    LEESHORE_DATA_DIR: dir,
    LEESHORE_NOW: new Date(NOW).toISOString(),
    LEESHORE_TIMEZONE: 'Europe/Dublin',
    LEESHORE_LOG: 'warn',
  });
  const runtime = await openRuntime(settings);
  for (const [kind, text] of [
    ['outline', outlineFile(learners)],
    ['roster', rosterFile(learners)],
  ] as const) {
    await receiveFile(runtime, SYSTEM_VIEWER, { kind }, Readable.from([Buffer.from(text)]));
    await workOnNext(runtime, makeOwner());
  }
  return runtime;
}

export async function importLog(runtime: Runtime, path: string): Promise<number> {
  const [id] = await receiveFile(runtime, SYSTEM_VIEWER, { kind: 'access-log' }, createReadStream(path));
  const { ms } = await timed(() => workOnNext(runtime, makeOwner()));
  const run = await findRun(runtime.db, id);
  if (run?.state !== 'done' || run.rejected > 0)
    throw new Error(`import ended as ${run?.state}, ${run?.rejected} rejected`);
  return ms;
}

export async function benchImport(rows: number, learners: number): Promise<void> {
  const dir = mkdtempSync(join(tmpdir(), 'lee-shore-bench-'));
  try {
    const path = join(dir, 'log.csv');
    await writeLog(path, learners, rows);
    const before = await timed(() => plainInsert(join(dir, 'before.sqlite'), learners, rows));
    const making = await timed(() => {
      let sum = 0;
      for (const row of logRows(learners, rows)) sum += row.at;
      return sum;
    });
    const runtime = await filled(join(dir, 'data'), learners);
    const fresh = await importLog(runtime, path);
    // Once before and once after, since the machine's speed wanders.
    const after = await timed(() => plainInsert(join(dir, 'after.sqlite'), learners, rows));
    const base = (before.ms + after.ms) / 2 - making.ms;
    const seconds = (ms: number) => `${(ms / 1000).toFixed(1)} s`;
    const counts = await Promise.all(
      ['event', 'visit_course', 'learner_day', 'item_day'].map(
        async (t) => `${(await runtime.db(t).count('* as n'))[0].n} ${t}`,
      ),
    );
    report(
      `import of ${rows} rows`,
      fresh / base,
      2.5,
      `${seconds(fresh)} against ${seconds(base)} plain; ${counts.join(', ')}`,
    );
    const other = await filled(join(dir, 'other'), learners);
    await other.db.destroy();
    // A process that does nothing but import.
    const peak = await peakOf(other, ['import', 'access-log', path]);
    report('memory of the import', peak / 400, 1, `${Math.round(peak)} MB of 400 at the most`);
    const again = await importLog(runtime, path);
    console.log(`     the same file again: ${seconds(again)}, nothing added`);
    await runtime.db.destroy();
  } finally {
    rmSync(dir, { recursive: true, force: true });
  }
}
