import fc from 'fast-check';
import { afterEach, describe, expect, it } from 'vitest';
import { Readable } from 'node:stream';
import { LostImport, findRun } from '@/data/imports/import-runs';
import { makeOwner } from '../owner';
import { SYSTEM_VIEWER } from '../system-viewer';
import { checkAll } from '../check';
import { SMALL, bringIn, logOf, testRuntime, type TestRuntime } from '../testing';
import { workOnNext } from './queue';
import { receiveFile } from './receive';

const opened: TestRuntime[] = [];
const open = async () => {
  const runtime = await testRuntime();
  opened.push(runtime);
  return runtime;
};
afterEach(async () => {
  for (const one of opened.splice(0)) await one.close();
});

const rows = (count: number, row: (n: number) => string) => Array.from({ length: count }, (_, n) => row(n)).join('\n');
/** More rows than a batch has, some of them wrong, of each kind. */
const COUNT = 2300;
const PEOPLE = 60;
const FILES: Record<string, string> = {
  outline: `course,unit,item_id,item,kind,required,points\n${rows(COUNT, (n) => `DRY,Week ${n % 9},X${n},Item ${n},${n % 7 === 3 ? 'nothing' : 'quiz'},yes,10`)}\n`,
  roster: `learner_id,given_name,family_name,course,group,enrolled_on\n${rows(COUNT, (n) => `P${n},Ines,Marrow ${n},${n % 50 === 7 ? '' : 'DRY'},${n % 2 ? 'A' : 'B'},2026-10-01`)}\n`,
  staff: `staff_id,given_name,email,role,scope_kind,scope\n${rows(COUNT, (n) => `T${n},Ada ${n},t${n}@staff.example,${n % 40 === 5 ? 'king' : 'mentor'},course,DRY`)}\n`,
  'access-log': logOf(
    Array.from({ length: COUNT }, (_, n) =>
      n % 90 === 8
        ? 'never,L1,DRY,D1,opened'
        : `2026-11-${10 + (n % 14)}T10:00:00Z,L${1 + (n % 4)},DRY,D${1 + (n % 2)},opened`,
    ),
  ),
  results: `learner_id,course,item_id,attempt,submitted_at,score,points,graded_at\n${rows(COUNT, (n) => `L${1 + (n % 2)},DRY,D2,${1 + (n >> 1)},2026-11-10T10:00:00Z,${n % 11},10,2026-11-1${n % 10}T10:00:00Z`)}\n`,
  sessions: `course,group,session_id,title,starts_at,ends_at\n${rows(COUNT, (n) => `DRY,${n % 2 ? 'A' : 'B'},S${n},Evening ${n},2026-11-1${n % 10}T18:00:00Z,2026-11-1${n % 10}T${n % 60 === 1 ? '17' : '19'}:00:00Z`)}\n`,
  marks: `session_id,learner_id,mark\n${rows(COUNT, (n) => `R${n % PEOPLE},L${1 + (n % 2)},${['present', 'late', 'absent', 'strange'][n % 4]}`)}\n`,
  presence: `session_id,person,entered,left\n${rows(COUNT, (n) => `R${n % PEOPLE},${n % 3 ? 'Ines Marrow' : 'Somebody'},2026-11-10T18:${String(n % 60).padStart(2, '0')}:00Z,2026-11-10T19:00:00Z`)}\n`,
  extensions: `learner_id,course,item_id,due_at,excused,reason\n${rows(COUNT, (n) => `L${1 + (n % 2)},DRY,D2,2026-11-${10 + (n % 15)}T10:00:00Z,no,reason ${n}`)}\n`,
  responses: `learner_id,course,item_id,attempt,question_id,answer,score,points,answered_at\n${rows(COUNT, (n) => `L${1 + (n % 2)},DRY,D2,1,Q${n},a,1,1,2026-11-10T10:00:00Z`)}\n`,
};
/** Each row as long as it takes for a file to have several batches. */
for (const [kind, text] of Object.entries(FILES)) {
  const [heading, ...lines] = text.trimEnd().split('\n');
  FILES[kind] = `${heading},padding\n${lines.map((line) => `${line},${'x'.repeat(800)}\n`).join('')}`;
}
const EVENING = (n: number) => `R${n},Roll ${n},2026-11-10T18:00:00Z,2026-11-10T19:15:00Z`;

async function known(): Promise<TestRuntime> {
  const runtime = await open();
  for (const kind of ['outline', 'roster', 'staff'] as const) await bringIn(runtime, kind, SMALL[kind]);
  await bringIn(
    runtime,
    'sessions',
    `course,session_id,title,starts_at,ends_at\n${rows(PEOPLE, (n) => `DRY,${EVENING(n)}`)}\n`,
  );
  return runtime;
}

/** Everything that a file may have left: the tables, without when and by whom, and what is said of the import. */
async function leftBy(runtime: TestRuntime, id: number) {
  const run = (await findRun(runtime.db, id))!;
  const { read, accepted, duplicate, rejected, unmatched, notes, state } = run;
  const tables: Record<string, unknown[]> = {};
  for (const [table, without] of Object.entries({
    item: [],
    unit: [],
    learner: [],
    enrolment: [],
    staff: [],
    event: [],
    attempt: [],
    session: ['secret', 'imported'],
    attendance: [],
    presence_row: [],
    presence: [],
    extension: [],
    response: [],
    learner_day: [],
    enrolment_progress: [],
    course_evidence: [],
  })) {
    const found = await runtime.db.from(table).select();
    tables[table] = found.map((row) =>
      Object.fromEntries(Object.entries(row).filter(([name]) => !without.includes(name as never))),
    );
  }
  return { run: { read, accepted, duplicate, rejected, unmatched, notes, state }, tables };
}

/** A process that dies as soon as so many batches of an import are stored. */
function dyingAfter(runtime: TestRuntime, batches: number): TestRuntime {
  let left = batches;
  const real = runtime.clock.real;
  return {
    ...runtime,
    clock: {
      ...runtime.clock,
      // Asked for once in each batch, in its transaction: what is thrown there takes the batch back with it.
      real: () => {
        left -= 1;
        // Told like one that was taken over: it says nothing more, as if it had been killed.
        if (left === 0) throw new LostImport('killed');
        return real();
      },
    },
  };
}

describe('an import that is killed between any two batches', () => {
  it.each(Object.keys(FILES))('of %s comes to the same as one that was not', async (kind) => {
    const clean = await known();
    const whole = await bringIn(clean, kind, FILES[kind]);
    const wanted = await leftBy(clean, whole.id);
    expect(wanted.run.read).toBe(COUNT);
    await fc.assert(
      fc.asyncProperty(fc.array(fc.integer({ min: 6, max: 18 }), { minLength: 1, maxLength: 3 }), async (deaths) => {
        const runtime = await known();
        const [id] = await receiveFile(runtime, SYSTEM_VIEWER, { kind }, Readable.from([Buffer.from(FILES[kind])]));
        for (const after of deaths) {
          await workOnNext(dyingAfter(runtime, after), makeOwner()).catch(() => undefined);
          // Whoever died said nothing more: its lease has run out.
          await runtime
            .db('import_run')
            .where({ id })
            .whereNot('state', 'done')
            .update({ owner: 'elsewhere|1|1|x', lease_until: 0, state: 'running' });
        }
        while ((await workOnNext(runtime, makeOwner())) !== 'idle');
        expect(await leftBy(runtime, id)).toEqual(wanted);
        expect((await checkAll(runtime)).problems).toEqual([]);
      }),
      { numRuns: 4 },
    );
  });

  it('fails with a word when whoever worked on it broke down twice at the same place', async () => {
    const runtime = await known();
    const [id] = await receiveFile(
      runtime,
      SYSTEM_VIEWER,
      { kind: 'roster' },
      Readable.from([Buffer.from(FILES.roster)]),
    );
    const breakDown = () =>
      runtime.db('import_run').where({ id }).update({ state: 'running', owner: makeOwner(), lease_until: 0, tries: 1 });
    await breakDown();
    await workOnNext(runtime, makeOwner());
    expect(await findRun(runtime.db, id)).toMatchObject({
      state: 'failed',
      error: expect.stringContaining('ended twice'),
    });
    // One that was stopped in good order is gone on with, however often.
    const [other] = await receiveFile(
      runtime,
      SYSTEM_VIEWER,
      { kind: 'roster' },
      Readable.from([Buffer.from(FILES.roster)]),
    );
    await runtime
      .db('import_run')
      .where({ id: other })
      .update({ state: 'running', owner: 'elsewhere|1|1|x', lease_until: 0, tries: 1 });
    await workOnNext(runtime, makeOwner());
    expect(await findRun(runtime.db, other)).toMatchObject({ state: 'done', read: COUNT });
  });
});
