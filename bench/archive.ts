/** Archiving a finished term: as fast as its import, a fraction of its size, and a page of it beside a page of the same log before. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { dayOf } from '@/core/time/zone';
import { withRaw } from '@/data/db';
import { openLog, readLog } from '@/server/access/access-log';
import { archiveNext, archivesFor, askArchive } from '@/server/archive/archive';
import type { Runtime } from '@/server/runtime';
import { SYSTEM_VIEWER } from '@/server/system-viewer';
import { NOW, writeLog } from './data';
import { filled, importLog } from './import';
import { percentile, report, timed } from './measure';

/** Courses whose first two pages are read: none twice, so that nothing is remembered. */
const COURSES = 20;

/** The first two pages of each course's log, in ms a page. */
async function pages(runtime: Runtime): Promise<number[]> {
  const spent: number[] = [];
  for (let c = 0; c < COURSES; c += 1) {
    let cursor: string | undefined;
    for (let page = 0; page < 2; page += 1) {
      const open = await openLog(runtime, SYSTEM_VIEWER, { course: `C${c}` });
      const { ms, value } = await timed(() => readLog(runtime, open, { limit: 100, cursor }));
      if (value.rows.length !== 100 || value.broken.length > 0) throw new Error('a page is not whole');
      spent.push(ms);
      cursor = value.older ?? undefined;
    }
  }
  return spent;
}

export async function benchArchive(rows: number, learners: number): Promise<void> {
  const dir = mkdtempSync(join(tmpdir(), 'lee-shore-bench-'));
  try {
    const path = join(dir, 'log.csv');
    await writeLog(path, learners, rows);
    const runtime = await filled(join(dir, 'data'), learners);
    try {
      const imported = await importLog(runtime, path);
      const size = await withRaw(
        runtime.db,
        (raw) =>
          raw
            .prepare(`SELECT sum(pgsize) FROM dbstat WHERE name LIKE 'event%' AND aggregate = TRUE`)
            .pluck()
            .get() as number,
      );
      const before = percentile(await pages(runtime), 0.5);
      await runtime.db('course').update({ ends_day: dayOf(NOW, runtime.zone) - 1 });
      const codes: string[] = await runtime.db('course').pluck('code');
      for (const course of codes) await askArchive(runtime, SYSTEM_VIEWER, { course });
      const { ms: spent, value } = await timed(() => archiveNext(runtime));
      if (value !== codes.length) throw new Error(`${value} of ${codes.length} archived`);
      const kept = await archivesFor(runtime, SYSTEM_VIEWER);
      const bytes = kept.reduce((sum, one) => sum + one.bytes, 0);
      const after = percentile(await pages(runtime), 0.5);
      const seconds = (ms: number) => `${(ms / 1000).toFixed(1)} s`;
      report(
        'archiving to importing',
        spent / imported,
        1,
        `${seconds(spent)} to ${seconds(imported)}, ${rows} events`,
      );
      const mb = (size_: number) => `${(size_ / 1e6).toFixed(1)} MB`;
      report('files to events in the database', bytes / size, 0.2, `${mb(bytes)} to ${mb(size)}`);
      report(
        'a page of an archive to one of the log',
        after / before,
        10,
        `${after.toFixed(1)} to ${before.toFixed(1)} ms`,
      );
    } finally {
      await runtime.db.destroy();
    }
  } finally {
    rmSync(dir, { recursive: true, force: true });
  }
}
