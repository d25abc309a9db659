/** Exporting a million rows of the log against a bare CSV writer on the same rows, and its memory. */
import { createWriteStream, rmSync } from 'node:fs';
import { join } from 'node:path';
import { finished, pipeline } from 'node:stream/promises';
import { withRaw } from '@/data/db';
import { openLog } from '@/server/access/access-log';
import { exportLog } from '@/server/access/log-export';
import type { Runtime } from '@/server/runtime';
import { SYSTEM_VIEWER } from '@/server/system-viewer';
import { evidence } from './evidence-data';
import { peakOf, report, timed } from './measure';

async function ours(runtime: Runtime, file: string): Promise<number> {
  const { body, progress } = await exportLog(runtime, await openLog(runtime, SYSTEM_VIEWER, {}), 'csv');
  await pipeline(body, createWriteStream(file));
  return progress.done;
}

/** One statement over all rows, in the same order and with the same columns, joined with commas. */
async function bare(runtime: Runtime, file: string): Promise<void> {
  const out = createWriteStream(file);
  await withRaw(runtime.db, (raw) => {
    const rows = raw
      .prepare(
        `SELECT event.at, learner.external_id, learner.given_name || ' ' || learner.family_name, course.code,
           item.external_id, item.title, action.word, action.kind, event.address
         FROM event INDEXED BY event_at JOIN course ON course.id = event.course_id JOIN action ON action.id = event.action_id
           LEFT JOIN learner ON learner.id = event.learner_id LEFT JOIN item ON item.id = event.item_id
         WHERE event.learner_id IS NOT NULL ORDER BY event.at DESC, event.id DESC`,
      )
      .raw()
      .iterate() as IterableIterator<(string | number | null)[]>;
    let text = '';
    for (const [at, ...rest] of rows) {
      text += `${new Date(at as number).toISOString()},${rest.map((cell) => cell ?? '').join(',')}\r\n`;
      if (text.length > 500_000) {
        out.write(text);
        text = '';
      }
    }
    out.end(text);
  });
  await finished(out);
}

export async function benchExport(rows: number): Promise<void> {
  const { runtime, dir } = await evidence(rows);
  try {
    // Both once before they are measured: the first reading fills the caches.
    await bare(runtime, join(dir, 'warm.csv'));
    const base: number[] = [];
    const spent: number[] = [];
    for (let i = 0; i < 3; i += 1) {
      base.push((await timed(() => bare(runtime, join(dir, 'bare.csv')))).ms);
      spent.push((await timed(() => ours(runtime, join(dir, 'ours.csv')))).ms);
    }
    const [a, b] = [Math.min(...base), Math.min(...spent)];
    const seconds = (ms: number) => `${(ms / 1000).toFixed(1)} s`;
    report(`export of ${rows} rows as CSV`, b / a, 2, `${seconds(b)} against ${seconds(a)} of a bare writer`);
    // A process that does nothing but export.
    const peak = await peakOf(runtime, ['export', 'access-log']);
    report('memory of the export', peak / 250, 1, `${Math.round(peak)} MB of 250 at the most`);
  } finally {
    await runtime.db.destroy();
    rmSync(dir, { recursive: true, force: true });
  }
}
