/** Trials on past courses on invented cohorts: what the Watch reaches beside quiet for seven days, and what a trial takes. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { withRaw } from '@/data/db';
import { courseDates } from '@/data/drift/drift';
import { cohortMembers, finishedCourses } from '@/data/trial/cohorts';
import { seeGroup } from '@/core/trial/cohort';
import { dayOf } from '@/core/time/zone';
import { SYSTEM_VIEWER } from '@/server/system-viewer';
import { fitAsText, proposeWeights } from '@/server/trial/fit';
import { pastTrials, trialAsText } from '@/server/trial/trial';
import { KINDS, makeCohort } from './cohorts';
import { NOW } from './data';
import { peakOf, report, timed } from './measure';
import { bringIn, openBench } from './work-data';

const PEOPLE = 250;
const SEEDS = [11, 12, 13, 14];
const MOST_MB = 400;

export async function benchTrial(): Promise<void> {
  const dir = mkdtempSync(join(tmpdir(), 'lee-shore-bench-'));
  try {
    const runtime = await openBench(dir);
    for (const [kindNumber, kind] of KINDS.entries()) {
      for (const seed of SEEDS) {
        const files = makeCohort(`K${kindNumber}S${seed}`, kind, PEOPLE, 1000 * kindNumber + seed);
        await bringIn(runtime, 'outline', files.outline);
        await bringIn(runtime, 'roster', files.roster);
        await bringIn(runtime, 'access-log', files.log);
        await bringIn(runtime, 'results', files.results);
        if (files.sessions) await bringIn(runtime, 'sessions', files.sessions);
        if (files.marks) await bringIn(runtime, 'marks', files.marks);
      }
    }
    const courses = await finishedCourses(runtime.db, dayOf(NOW, runtime.zone));
    const show = async (name: string, course?: string) => {
      const results = await pastTrials(runtime, SYSTEM_VIEWER, { course, rule: 'watch,drift' });
      for (const result of results) console.log(`${name}, ${trialAsText(result).replace(/\n/g, '\n     ')}`);
    };
    for (const [kindNumber, kind] of KINDS.entries()) {
      const own = courses.filter(({ code }) => code.startsWith(`K${kindNumber}`));
      await show(kind, own.map(({ code }) => code).join(','));
    }
    await show('all');
    const [first] = courses;
    const reading = await withRaw(runtime.db, (raw) => {
      const began = performance.now();
      const dates = courseDates(raw, first.id, runtime.zone);
      for (const group of first.groups) seeGroup(cohortMembers(raw, first.id, group, runtime.zone), dates, () => 0);
      return performance.now() - began;
    });
    const { ms } = await timed(() =>
      pastTrials(runtime, SYSTEM_VIEWER, { course: first.code, rule: 'watch,drift,quiet>=7,quiet>=14' }),
    );
    report(
      `a trial of ${PEOPLE} learners, 14 weeks and four rules, beside reading those weeks once`,
      ms / reading,
      3,
      `${ms.toFixed(0)} ms beside ${reading.toFixed(0)} ms`,
    );
    const two = courses.slice(0, 8).map(({ code }) => code);
    const fitted = await timed(() => proposeWeights(runtime, SYSTEM_VIEWER, { course: two.join(',') }));
    console.log(`     ${fitAsText(fitted.value).replace(/\n/g, '\n     ')}`);
    const peak = await peakOf(runtime, ['fit', '--course', two.join(',')]);
    console.log(
      `${peak <= MOST_MB ? 'ok  ' : 'OVER'} memory of a fit on ${PEOPLE * two.length} past learners: ${Math.round(peak)} MB (at most ${MOST_MB}) · ${fitted.ms.toFixed(0)} ms`,
    );
    await runtime.db.destroy();
  } finally {
    rmSync(dir, { recursive: true, force: true });
  }
}
