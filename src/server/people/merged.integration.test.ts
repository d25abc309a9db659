import { afterEach, expect, it } from 'vitest';
import { withRaw } from '@/data/db';
import { tablesMoved } from '@/data/people/merge';
import { findLearner } from '@/data/people/learners';
import { readAllPast } from '../drift/recalculate';
import { LISTS } from '../lists';
import { SYSTEM_VIEWER } from '../system-viewer';
import { NEEDED_BY_LIST, askList, bringIn, smallRuntime, type TestRuntime } from '../testing';
import { mergeLearners } from './merging';

let runtime: TestRuntime;
afterEach(() => runtime.close());

it('every table with a learner in it moves with a merge, and no list brings the merged record back', async () => {
  runtime = await smallRuntime([
    '2026-11-20T10:00:00Z,L1,DRY,D1,opened',
    '2026-11-21T10:00:00Z,L2,DRY,D1,opened',
    '2026-11-22T10:00:00Z,L4,DRY,D2,submitted',
  ]);
  await bringIn(
    runtime,
    'sessions',
    'course,session_id,title,starts_at,ends_at\nDRY,S1,One,2026-11-17T18:00:00Z,2026-11-17T19:00:00Z\n',
  );
  await bringIn(runtime, 'marks', 'session_id,learner_id,mark\nS1,L1,present\nS1,L2,absent\nS1,L4,late\n');
  await bringIn(
    runtime,
    'results',
    'learner_id,course,item_id,attempt,submitted_at,score,points,graded_at\nL2,DRY,D2,1,2026-11-10T10:00:00Z,5,10,2026-11-11T10:00:00Z\n',
  );
  await readAllPast(runtime);
  const [kept, gone] = await Promise.all(['L1', 'L2'].map((id) => findLearner(runtime.db, SYSTEM_VIEWER, id)));
  await mergeLearners(runtime, SYSTEM_VIEWER, kept!, gone!);
  // Whatever has a learner is of the kept one, but for what both had: that stays where it is and is shown nowhere.
  const both = new Set(['enrolment', 'attendance']);
  for (const table of await withRaw(runtime.db, tablesMoved)) {
    const left = await runtime.db.from(table).where('learner_id', gone!).select();
    if (!both.has(table)) expect([table, left]).toEqual([table, []]);
  }
  await readAllPast(runtime);
  for (const list of LISTS) {
    for (const more of [{}, { status: 'all' }, { as_of: '2026-11-22' }, { status: 'all', as_of: '2026-11-22' }]) {
      const asked = { ...NEEDED_BY_LIST[list.name], limit: '1000', ...more };
      const { rows } = await askList(list, runtime, SYSTEM_VIEWER, asked).catch(() => ({ rows: [] }));
      const shown = (rows as { learner_id?: string }[]).map(({ learner_id }) => learner_id);
      expect([list.name, more, shown.includes('L2')]).toEqual([list.name, more, false]);
    }
  }
});
