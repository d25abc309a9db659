/** All readings of a day in a large institution: every factor against those three that the first design had. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { DEFAULT_MODEL } from '@/core/drift/model';
import { quiet } from '@/core/drift/quiet';
import { talking } from '@/core/drift/talking';
import { working } from '@/core/drift/working';
import { dayOf } from '@/core/time/zone';
import { withRaw } from '@/data/db';
import { allGroups } from '@/data/drift/drift';
import { readGroup } from '@/server/drift/portions';
import { NOW } from './data';
import { report } from './measure';
import { HEAD, bringIn, fill, line, openBench, results } from './work-data';

const PLAN = { courses: 400, learners: 50, group: 25, items: 25 };

export async function benchDrift(): Promise<void> {
  const dir = mkdtempSync(join(tmpdir(), 'lee-shore-bench-'));
  try {
    const runtime = await openBench(dir);
    await fill(runtime, PLAN);
    await bringIn(runtime, 'results', `${HEAD}\n${[...results(PLAN)].map(line).join('\n')}\n`);
    const today = dayOf(NOW, runtime.zone);
    // The days on which each was there, as a log gives them: three factors go by these alone.
    await withRaw(runtime.db, (raw) => {
      const day = raw.prepare(
        `INSERT INTO learner_day (learner_id, course_id, day, events, looked, worked, talked, other, ms, first, last)
         SELECT learner_id, course_id, ?, 9, 5, 3, 1, 0, 900000, 0, 0 FROM enrolment WHERE (learner_id + ?) % 3 > 0`,
      );
      raw.transaction(() => {
        for (let ago = 0; ago < 70; ago += 1) day.run(today - ago, ago);
      })();
    });
    await withRaw(runtime.db, (raw) => {
      const groups = allGroups(raw).map((group) => ({ ...group, fromDay: today }));
      const read = (model: typeof DEFAULT_MODEL) => {
        const began = performance.now();
        for (const group of groups) readGroup(raw, group, today, runtime.zone, () => model);
        return performance.now() - began;
      };
      const three = { ...DEFAULT_MODEL, factors: [quiet, working, talking] as never };
      read(three);
      const [few, all] = [Math.min(read(three), read(three)), Math.min(read(DEFAULT_MODEL), read(DEFAULT_MODEL))];
      report(
        `drift of ${(PLAN.courses * PLAN.learners).toLocaleString('en-GB')} enrolments on a day, every factor against three`,
        all / few,
        2,
        `${Math.round(all)} ms against ${Math.round(few)} ms`,
      );
    });
    await runtime.db.destroy();
  } finally {
    rmSync(dir, { recursive: true, force: true });
  }
}
