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

  it('leaves what did not take place, and a meeting goes to the session that it began with', async () => {
    const runtime = await testRuntime();
    opened.push(runtime);
    for (const step of ['outline', 'roster', 'register']) await steps[step](runtime);
    const meeting = 'Attendee,Came in,Went out\nInes Marrow,2026-11-09 11:28,2026-11-09 12:20\n';
    await bringIn(runtime, 'auto', meeting, { course: 'DRY', create: 'yes' });
    const heading = 'course,group,session_id,title,starts_at,ends_at,cancelled\n';
    const rows = [
      'DRY,,off,Off,2026-10-05T18:00:00Z,2026-10-05T19:00:00Z,yes',
      'DRY,,first,First,2026-11-09T10:00:00Z,2026-11-09T11:00:00Z,',
      'DRY,,second,Second,2026-11-09T11:30:00Z,2026-11-09T12:30:00Z,',
    ];
    await bringIn(runtime, 'sessions', `${heading}${rows.join('\n')}\n`);
    const of = (table: 'attendance' | 'presence_row') =>
      runtime
        .db(table)
        .join('session as s', 's.id', `${table}.session_id`)
        .distinct('s.external_id')
        .pluck('s.external_id');
    expect(await of('presence_row')).toEqual(['second']);
    expect(await of('attendance')).not.toContain('off');
  });

  it('alone makes sessions of its days, and says nothing twice', async () => {
    const alone = await after('register', 'register');
    expect(alone.sessions.map(({ title }) => title)).toEqual(['2026-10-05', '2026-10-12']);
    expect([alone.marks.length, alone.rolls.length, alone.problems]).toEqual([6, 2, []]);
  });
});
