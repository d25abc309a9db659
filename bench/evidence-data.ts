/** A data folder with millions of events, made without the importer: what is measured here is reading. */
import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { daySql } from '@/data/day-sql';
import { withRaw, rawTransaction } from '@/data/db';
import { touching } from '@/data/access/touched';
import { recalculate } from '@/server/drift/recalculate';
import type { Runtime } from '@/server/runtime';
import { ACTIONS, logRows, NOW } from './data';
import { filled } from './import';

/** One learner to 500 events, whatever the size: more events are more learners and courses. */
const EVENTS_A_LEARNER = 500;

export async function evidence(rows: number): Promise<{ runtime: Runtime; dir: string; learners: number }> {
  const learners = Math.round(rows / EVENTS_A_LEARNER);
  const dir = mkdtempSync(join(tmpdir(), 'lee-shore-bench-'));
  const runtime = await filled(join(dir, 'data'), learners);
  const { db, zone } = runtime;
  const indexes = await withRaw(
    db,
    (raw) =>
      raw
        .prepare("SELECT name, sql FROM sqlite_master WHERE type = 'index' AND tbl_name = 'event' AND sql IS NOT NULL")
        .all() as {
        name: string;
        sql: string;
      }[],
  );
  await rawTransaction(db, (raw) => {
    const pairs = (sql: string) => new Map(raw.prepare(sql).raw().all() as [string, number][]);
    const learner = pairs('SELECT external_id, id FROM learner');
    const course = pairs('SELECT code, id FROM course');
    const item = pairs('SELECT external_id, id FROM item');
    const kinds = ['looked', 'looked', 'looked', 'worked', 'worked', 'worked', 'talked', 'other'];
    const action = ACTIONS.map((word, index) =>
      Number(
        raw
          .prepare(
            'INSERT INTO action (word, kind, settled) VALUES (?, ?, 1) ON CONFLICT DO UPDATE SET settled = 1 RETURNING id',
          )
          .pluck()
          .get(word, kinds[index]),
      ),
    );
    raw.prepare("INSERT OR IGNORE INTO source (name) VALUES ('bench')").run();
    const source = raw.prepare("SELECT id FROM source WHERE name = 'bench'").pluck().get();
    for (const { name } of indexes) raw.exec(`DROP INDEX ${name}`);
    const insert = raw.prepare(
      `INSERT INTO event (at, learner_id, course_id, item_id, action_id, address, source_id) VALUES (?, ?, ?, ?, ?, ?, ?)`,
    );
    for (const row of logRows(learners, rows)) {
      const c = Math.floor(row.learner / 50);
      const itemId = row.item === null ? null : item.get(`C${c}-${row.item}`)!;
      insert.run(
        row.at,
        learner.get(`B${row.learner}`),
        course.get(`C${c}`),
        itemId,
        action[row.action],
        row.address,
        source,
      );
    }
    for (const { sql } of indexes) raw.exec(sql);
    const day = daySql('at', zone, NOW - 80 * 86_400_000, NOW);
    raw.exec(`INSERT INTO course_day SELECT course_id, ${day}, action_id, 0, count(*) FROM event GROUP BY 1, 2, 3`);
    raw.exec(`UPDATE action SET events = (SELECT count(*) FROM event WHERE action_id = action.id)`);
    raw.exec(touching('SELECT learner_id, min(at), max(at) FROM event GROUP BY 1'));
  });
  await recalculate(runtime);
  return { runtime, dir, learners };
}
