/** Whichever file comes first, the figures are those that our own files give. */
import fc from 'fast-check';
import { beforeAll, describe, expect, it } from 'vitest';
import { checkAll } from '../check';
import { PROGRESS } from '../completion/progress-list';
import { GRADES } from '../grades/grades-list';
import { ITEM_USE } from '../item-use/item-use';
import { LEARNERS } from '../people/learner-list';
import { SYSTEM_VIEWER } from '../system-viewer';
import { askList, bringIn, testRuntime, type TestRuntime } from '../testing';
import { showRun } from './show';

const OUTLINE = `course,course_title,starts_on,ends_on,unit,item_id,item,kind,required,due_at,points
KNO,Knots and Splices,2026-09-28,2026-12-21,Week 1,K1,Bowline,page,yes,,
KNO,Knots and Splices,2026-09-28,2026-12-21,Week 1,K2,Splice quiz,quiz,yes,2026-10-12T17:00:00Z,20
KNO,Knots and Splices,2026-09-28,2026-12-21,Week 2,K3,Netting,video,yes,,
`;
const ROSTER = `learner_id,given_name,family_name,email,course,group,enrolled_on,status
P1,Ines,Marrow,ines@learner.example,KNO,A,2026-09-28,active
P2,Tobias,Quill,tobias@learner.example,KNO,A,2026-09-28,active
P3,Halima,Okoro,halima@learner.example,KNO,B,2026-09-29,active
P4,Petra,Sandoval,petra@learner.example,KNO,B,2026-09-29,withdrawn
`;
/** The same log, by ids and by names. */
const CLICKS: readonly (readonly [time: string, person: string, item: string, action: string])[] = [
  ['2026-11-02T18:05:10Z', 'P1', 'K1', 'viewed'],
  ['2026-11-03T07:15:00Z', 'P2', 'K1', 'viewed'],
  ['2026-11-03T07:20:30Z', 'P2', 'K2', 'submitted'],
  ['2026-11-20T20:00:59Z', 'P1', 'K3', 'played'],
  ['2026-11-21T09:30:00Z', 'P3', '', 'signed_in'],
  ['2026-10-05T12:00:00Z', 'P4', 'K1', 'viewed'],
];
const NAMES: Record<string, string> = {
  P1: 'Marrow, Ines',
  P2: 'Tobias Quill',
  P3: 'HALIMA OKORO',
  P4: 'Petra Sandoval',
};
const TITLES: Record<string, string> = { '': '', K1: 'Bowline', K2: 'Splice quiz', K3: 'Netting' };
const ours = (lines: readonly string[]) => `time,learner_id,course,item_id,action\n${lines.join('\n')}\n`;
const OWN_LOG = ours(CLICKS.map(([time, who, item, action]) => [time, who, 'KNO', item, action].join(',')));
const LOG = `Knots and Splices\n\nDate;Participant;Where;What\n${CLICKS.map(([time, who, item, action]) =>
  [time, NAMES[who], TITLES[item], action].join(';'),
).join('\n')}\n`;
const PARTICIPANTS = `Full name\tE-mail\tLast access
Ines Marrow\tines@learner.example\t3 days 13 hours 9 minutes
Tobias Quill\ttobias@learner.example\t21 days 1 hour 49 minutes
Halima Okoro\thalima@learner.example\t2 days 23 hours 40 minutes
Petra Sandoval\tpetra@learner.example\t49 days 21 hours 10 minutes
`;
const GRADEBOOK = `Name,Mail,Splice quiz (20),Course total
Tobias Quill,tobias@learner.example,17/20,17
Ines Marrow,ines@learner.example,–,0
`;
const OWN_RESULTS = `learner_id,course,item_id,attempt,submitted_at,score,points,graded_at
P2,KNO,K2,1,2026-11-03T07:20:30Z,17,20,2026-11-24T09:10:00Z
`;

interface Step {
  name: string;
  kind: string;
  text: string;
}

const STEPS: readonly Step[] = [
  { name: 'outline', kind: 'outline', text: OUTLINE },
  { name: 'roster', kind: 'roster', text: ROSTER },
  { name: 'participants', kind: 'auto', text: PARTICIPANTS },
  { name: 'log of names', kind: 'auto', text: LOG },
  { name: 'gradebook', kind: 'auto', text: GRADEBOOK },
];

/** Everything that anybody would look at, by the roster's ids. */
async function figures(runtime: TestRuntime) {
  const all = { limit: '1000', course: 'KNO' };
  const pick = (rows: Record<string, unknown>[], ...names: string[]) =>
    rows
      .map((row) => Object.fromEntries(names.map((name) => [name, row[name]])))
      .sort((a, b) => JSON.stringify(a).localeCompare(JSON.stringify(b)));
  const learners = await askList(LEARNERS, runtime, SYSTEM_VIEWER, { limit: '1000' });
  const progress = await askList(PROGRESS, runtime, SYSTEM_VIEWER, all);
  const grades = await askList(GRADES, runtime, SYSTEM_VIEWER, all);
  const use = await askList(ITEM_USE, runtime, SYSTEM_VIEWER, all);
  return {
    learners: pick(
      learners.rows,
      'learner_id',
      'name',
      'email',
      'courses',
      'last_access',
      'days_quiet',
      'minutes_online',
      'drift',
      'band',
    ),
    progress: pick(progress.rows, 'learner_id', 'done', 'required', 'progress', 'behind'),
    grades: pick(grades.rows, 'learner_id', 'on_graded_work', 'of_whole_course', 'if_missing_scores_0'),
    use: pick(
      use.rows,
      'item_id',
      'item',
      'kind',
      'base',
      'openers',
      'opens',
      'minutes',
      'first_opened',
      'last_opened',
    ),
  };
}

let expected: Awaited<ReturnType<typeof figures>>;

beforeAll(async () => {
  const runtime = await testRuntime();
  for (const [kind, text] of [
    ['outline', OUTLINE],
    ['roster', ROSTER],
    ['results', OWN_RESULTS],
    ['access-log', OWN_LOG],
  ])
    expect(await bringIn(runtime, kind, text)).toMatchObject({ state: 'done', rejected: 0 });
  expected = await figures(runtime);
  await runtime.close();
});

describe('in whatever order files come', () => {
  it('ends with the figures of our own files', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.shuffledSubarray([...STEPS], { minLength: STEPS.length }),
        fc.constantFrom('KNO', 'Knots and Splices'),
        async (steps, course) => {
          const runtime = await testRuntime();
          try {
            for (const { kind, text } of steps) {
              const more = kind === 'auto' ? { course, create: 'yes', made_at: '2026-11-24T09:10:00Z' } : {};
              const run = await bringIn(runtime, kind, text, more as Record<string, string>);
              expect(showRun(run)).toMatchObject({ state: 'done', rejected: 0, waiting: 0 });
            }
            expect(await figures(runtime)).toEqual(expected);
            expect((await checkAll(runtime)).problems).toEqual([]);
          } finally {
            await runtime.close();
          }
        },
      ),
      { numRuns: 20 },
    );
  }, 240_000);
});
