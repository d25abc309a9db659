import { afterEach, describe, expect, it } from 'vitest';
import { checkAll } from '@/server/check';
import { recalculate } from '@/server/drift/recalculate';
import { SMALL, bringIn, testRuntime, type TestRuntime } from '@/server/testing';

const opened: TestRuntime[] = [];
afterEach(async () => {
  for (const runtime of opened.splice(0)) await runtime.close();
});

const REGISTER = `Name,2026-10-05,2026-10-12,Total
Ines Marrow,P,L,2
Tobias Quill,A,P,1
Petra Sandoval,E,A,0
`;
const TIMETABLE = `course,group,session_id,title,starts_at,ends_at
DRY,A,dry-a-1,Walls,2026-10-05T18:00:00Z,2026-10-05T19:00:00Z
DRY,B,dry-b-1,Walls,2026-10-05T18:00:00Z,2026-10-05T19:00:00Z
DRY,,dry-2,Gaps,2026-10-12T18:00:00Z,2026-10-12T19:00:00Z
`;
const steps: Record<string, (runtime: TestRuntime) => Promise<unknown>> = {
  outline: (runtime) => bringIn(runtime, 'outline', SMALL.outline),
  roster: (runtime) => bringIn(runtime, 'roster', SMALL.roster),
  timetable: (runtime) => bringIn(runtime, 'sessions', TIMETABLE),
  register: (runtime) => bringIn(runtime, 'auto', REGISTER, { course: 'DRY', create: 'yes' }),
};

/** What stands after the steps, in their order: sessions, and everybody's marks in them. */
async function after(...order: (keyof typeof steps)[]) {
  const runtime = await testRuntime();
  opened.push(runtime);
  for (const step of order) await steps[step](runtime);
  await recalculate(runtime);
  const { db } = runtime;
  return {
    sessions: await db('session').whereNull('removed_at').orderBy('external_id').select('external_id', 'title'),
    rolls: await db('session')
      .whereNull('removed_at')
      .whereNotNull('roll_at')
      .orderBy('external_id')
      .pluck('external_id'),
    marks: await db('attendance as a')
      .join('session as s', 's.id', 'a.session_id')
      .join('learner as l', 'l.id', 'a.learner_id')
      .orderBy(['s.external_id', 'l.external_id'])
      .select('s.external_id as session', 'l.external_id as learner', 'a.mark'),
    problems: (await checkAll(runtime)).problems,
  };
}

describe('a register before its timetable', () => {
  it('is the same as after it, with groups that have a session each', async () => {
    const expected = await after('outline', 'roster', 'timetable', 'register');
    expect(expected.problems).toEqual([]);
    expect(expected.marks.map(({ session, learner, mark }) => `${session} ${learner} ${mark}`)).toEqual([
      ...['dry-2 L1 late', 'dry-2 L2 present', 'dry-2 L4 absent'],
      ...['dry-a-1 L1 present', 'dry-a-1 L4 excused', 'dry-b-1 L2 absent'],
    ]);
    expect(await after('outline', 'roster', 'register', 'timetable')).toEqual(expected);
    expect(await after('outline', 'roster', 'register', 'timetable', 'register', 'timetable')).toEqual(expected);
  });

  it('alone makes sessions of its days, and says nothing twice', async () => {
    const alone = await after('register', 'register');
    expect(alone.sessions.map(({ title }) => title)).toEqual(['2026-10-05', '2026-10-12']);
    expect([alone.marks.length, alone.rolls.length, alone.problems]).toEqual([6, 2, []]);
  });
});
