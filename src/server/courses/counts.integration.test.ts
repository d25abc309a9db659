import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, it } from 'vitest';
import { BAND_WORDS } from '@/core/drift/bands';
import { LEARNERS } from '../people/learner-list';
import { SYSTEM_VIEWER } from '../system-viewer';
import { askList, bringIn, testRuntime } from '../testing';
import { COURSES } from './courses-list';

interface CourseCounts {
  course: string;
  never: number;
  bands: Record<string, number>;
}

it('a course’s counts open exactly the people they count', async () => {
  const runtime = await testRuntime('2026-11-24T09:10:00Z', 'Europe/Dublin');
  const file = (name: string) => readFileSync(join(process.cwd(), 'samples', 'small', name)).toString();
  await bringIn(runtime, 'outline', file('outline.csv'));
  await bringIn(runtime, 'roster', file('roster.csv'));
  await bringIn(runtime, 'access-log', file('access-log-1.csv'));
  await bringIn(runtime, 'access-log', file('access-log-2.csv'));
  await bringIn(runtime, 'results', file('results.csv'));
  const courses = await askList(COURSES, runtime, SYSTEM_VIEWER);
  for (const { course, bands, never } of courses.rows as unknown as CourseCounts[]) {
    const unseen = await askList(LEARNERS, runtime, SYSTEM_VIEWER, { course, never: 'yes', limit: '1000' });
    expect([course, unseen.rows.length]).toEqual([course, never]);
    const opened = await Promise.all(
      BAND_WORDS.map((band) => askList(LEARNERS, runtime, SYSTEM_VIEWER, { course, band, limit: '1000' })),
    );
    expect([course, opened.map(({ rows }) => rows.length)]).toEqual([
      course,
      [bands.on_course, bands.slipping, bands.adrift],
    ]);
  }
  await runtime.close();
});
