/** Lists of work over more people than are gone through one by one: the same rows, in whatever way they are found. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { DUE_STATES } from '@/core/work/due';
import { enrolledInView } from '@/data/completion/enrolled';
import { changes } from '../grades/changes-list';
import { openView } from '../request/view';
import { SYSTEM_VIEWER } from '../system-viewer';
import { bringIn, testRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { extendItems, undoChange } from './completion-changes';
import { workDue } from './work-due-list';
import { WORK_DUE_SORTS, workDueRows, type WorkDueRow } from './work-due-rows';

const LEARNERS = 620;
/** Two courses of work; two sheets of the second fall due at the same instant. */
const OUTLINE = [
  'course,course_title,starts_on,ends_on,unit,item_id,item,kind,required,due_at,points',
  'DRY,Drystone Walling,2026-09-28,2026-12-21,Week 1,D1,Footing,quiz,yes,2026-10-05T12:00:00Z,20',
  'DRY,Drystone Walling,2026-09-28,2026-12-21,Week 2,D2,Batter,assignment,yes,2026-11-20T12:00:00Z,100',
  'DRY,Drystone Walling,2026-09-28,2026-12-21,Week 2,D3,Stone,page,yes,2026-11-20T12:00:00Z,',
  'NET,Net Making,2026-09-28,2026-12-21,Week 1,N1,Knot,assignment,yes,2026-10-19T12:00:00Z,10',
  'NET,Net Making,2026-09-28,2026-12-21,Week 1,N2,Mesh,assignment,yes,2026-10-19T12:00:00Z,10',
  'NET,Net Making,2026-09-28,2026-12-21,Week 9,N3,Seine,assignment,yes,2026-12-14T12:00:00Z,10',
  '',
].join('\n');
const ROSTER = [
  'learner_id,given_name,family_name,course,group,enrolled_on,status,ended_on',
  ...Array.from({ length: LEARNERS }, (_, i) => {
    const end = i % 97 === 5 ? 'withdrawn,2026-11-01' : 'active,';
    // Names alike: their order is settled by who they are.
    return `L${i},Given${i % 13},Family${i % 41},${i % 3 === 0 ? 'NET' : 'DRY'},G${i % 4},2026-09-28,${end}`;
  }),
  '',
].join('\n');
const HEAD = 'learner_id,course,item_id,attempt,started_at,submitted_at,score,points,graded_at,grader,feedback';
const at = (i: number) => new Date(Date.UTC(2026, 9, 1) + i * 3_600_000).toISOString();
const line = (i: number, score: number, more = 0) =>
  i % 3 === 0
    ? `L${i},NET,${i % 2 === 0 ? 'N1' : 'N2'},1,,${at(i)},${score % 11},10,${at(i + more)},S3,`
    : `L${i},DRY,D1,1,,${at(i)},${score % 21},20,${at(i + more)},S3,`;
const every = (step: number, of: (i: number) => string) =>
  [HEAD, ...Array.from({ length: Math.ceil(LEARNERS / step) }, (_, n) => of(n * step)), ''].join('\n');

let runtime: TestRuntime;
beforeAll(async () => {
  runtime = await testRuntime();
  await bringIn(runtime, 'outline', OUTLINE);
  await bringIn(runtime, 'roster', ROSTER);
  await bringIn(
    runtime,
    'staff',
    `staff_id,given_name,family_name,email,role,scope_kind,scope
S3,Jory,Kestle,instructor@staff.example,instructor,group,DRY/G2
`,
  );
  await bringIn(
    runtime,
    'results',
    every(2, (i) => line(i, i)),
  );
  // A grade that changed, for some at the same instant as others' first.
  await bringIn(
    runtime,
    'results',
    every(4, (i) => line(i, i + 3, 4)),
  );
  await bringIn(
    runtime,
    'extensions',
    [
      'learner_id,course,item_id,due_at,excused,reason',
      'L3,NET,N1,2026-11-27T12:00:00Z,no,ill',
      'L9,NET,N2,,yes,ill',
      '',
    ].join('\n'),
  );
});
afterAll(() => runtime.close());

/** Every page of a list, one after another. */
async function pages<Row>(
  read: (cursor: Record<string, string>) => Promise<{ rows: Row[]; next: string | null; total: number }>,
) {
  const rows: Row[] = [];
  const totals = new Set<number>();
  for (let cursor: string | null = ''; cursor !== null;) {
    const page = await read(cursor ? { cursor } : {});
    rows.push(...page.rows);
    totals.add(page.total);
    cursor = page.next;
  }
  return { rows, totals: [...totals] };
}

const keyOf = (row: WorkDueRow) => `${row.enrolled.learner_id} ${row.item_id} ${row.state} ${row.days_late}`;

describe('work owed of many', () => {
  /** What there is, with nothing left to due dates alone. */
  const reference = async (state?: (typeof DUE_STATES)[number] | 'any_overdue', from?: number) => {
    const view = await openView(runtime, SYSTEM_VIEWER);
    const people = await enrolledInView(runtime.db, view, 'active');
    return workDueRows(runtime.db, view, people, { state, from });
  };

  it.each(WORK_DUE_SORTS.flatMap((sort) => [sort, `-${sort}`]))(
    'has every piece once, page by page, by %s',
    async (sort) => {
      const expected = await reference();
      expect(expected.length).toBeGreaterThan(1000);
      const { rows, totals } = await pages((cursor) =>
        workDue(runtime, SYSTEM_VIEWER, { sort, limit: '170', ...cursor }),
      );
      expect(rows.map(keyOf).sort()).toEqual(expected.map(keyOf).sort());
      expect(totals).toEqual([expected.length]);
      const value: Record<string, (row: WorkDueRow) => number | string> = {
        // The latest date first is what `due` means.
        due: (row) => -row.due_at,
        late: (row) => row.days_late,
        item: (row) => row.item,
        name: (row) => row.enrolled.family_name,
      };
      const values = rows.map(value[sort.replace('-', '')]);
      const sorted = [...values].sort((a, b) => (typeof a === 'number' ? a - Number(b) : a.localeCompare(String(b))));
      expect(values).toEqual(sort.startsWith('-') ? sorted.reverse() : sorted);
    },
  );

  it.each([...DUE_STATES, 'any_overdue'] as const)(
    'of the state %s alone, and from a day on, are those of all',
    async (state) => {
      const from = Date.parse('2026-10-10T00:00:00Z');
      for (const sort of WORK_DUE_SORTS) {
        const { rows } = await pages((cursor) =>
          workDue(runtime, SYSTEM_VIEWER, { state, sort, from: '2026-10-10', limit: '300', ...cursor }),
        );
        expect(rows.map(keyOf).sort()).toEqual((await reference(state, from)).map(keyOf).sort());
      }
    },
  );

  it('as of a past day are as they stood then, by due dates or worked out', async () => {
    const as_of = '2026-10-12';
    const all = await pages((cursor) => workDue(runtime, SYSTEM_VIEWER, { as_of, limit: '400', ...cursor }));
    const overdue = await pages((cursor) =>
      workDue(runtime, SYSTEM_VIEWER, { as_of, state: 'any_overdue', limit: '400', ...cursor }),
    );
    expect(overdue.rows.length).toBeGreaterThan(100);
    expect(overdue.rows.map(keyOf).sort()).toEqual(
      all.rows
        .filter(({ isOverdue }) => isOverdue)
        .map(keyOf)
        .sort(),
    );
    // Nothing of the second course had fallen due by then.
    expect(overdue.rows.every(({ item_id }) => item_id === 'D1')).toBe(true);
  });

  it('leave out who has withdrawn and what is excused, and keep the later date of an extension', async () => {
    const { rows } = await workDue(runtime, SYSTEM_VIEWER, { learner: 'L3' });
    expect(rows.map(({ item_id, extended_from }) => [item_id, extended_from === null])).toEqual([
      ['N3', true],
      ['N1', false],
      ['N2', true],
    ]);
    expect(
      (await workDue(runtime, SYSTEM_VIEWER, { learner: 'L9' })).rows.map(
        ({ item_id, state }) => `${item_id} ${state}`,
      ),
    ).toEqual(['N3 not_due', 'N1 overdue', 'N2 exempt']);
    expect((await workDue(runtime, SYSTEM_VIEWER, { learner: 'L5', status: 'all' })).total).toBe(0);
  });
});

describe('what is owed now', () => {
  it('is what was done a moment ago, before anything is derived anew', async () => {
    const total = async () => (await workDue(runtime, SYSTEM_VIEWER, { state: 'any_overdue', limit: '1' })).total;
    const before = await total();
    const { rows } = await workDue(runtime, SYSTEM_VIEWER, { state: 'any_overdue', item: 'D1', limit: '1' });
    const [learner, item] = [rows[0].enrolled.id, rows[0].itemId];
    const given = await extendItems(runtime, SYSTEM_VIEWER, [[learner, item]], {
      due_at: '2026-12-15T12:00:00Z',
      reason: 'ill',
    });
    expect(await total()).toBe(before - 1);
    await undoChange(runtime, SYSTEM_VIEWER, given.batch);
    expect(await total()).toBe(before);
  });
});

describe('the history of grades of many', () => {
  const keyed = ({ rows }: { rows: Awaited<ReturnType<typeof changes>>['rows'] }) =>
    rows.map((row) => [row.at, row.learner_id, row.item_id, row.old, row.score].join(' '));
  const list = (values: Record<string, string>) =>
    pages((cursor) => changes(runtime, SYSTEM_VIEWER, { limit: '150', ...values, ...cursor }));

  it('is each first grade and each change, newest first, page by page', async () => {
    const all = await list({});
    const [first, changed] = [Math.ceil(LEARNERS / 2), Math.ceil(LEARNERS / 4)];
    expect(all.rows).toHaveLength(first + changed);
    expect(all.totals).toEqual([first + changed]);
    expect(all.rows.map(({ at: time }) => time)).toEqual(all.rows.map(({ at: time }) => time).sort((a, b) => b - a));
    expect(all.rows.filter(({ old }) => old === null)).toHaveLength(first);
    const one = all.rows.filter(({ learner_id }) => learner_id === 'L4');
    expect(one.map(({ old, score }) => [old, score])).toEqual([
      [4, 7],
      [null, 4],
    ]);
  });

  it('is the same by item, by learner, by course and through the eyes of somebody with a group', async () => {
    const all = keyed(await list({}));
    for (const item of ['D1', 'N1', 'N2'])
      expect(keyed(await list({ item }))).toEqual(all.filter((key) => key.split(' ')[2] === item));
    for (const learner of ['L4', 'L6', 'L7'])
      expect(keyed(await list({ learner }))).toEqual(all.filter((key) => key.split(' ')[1] === learner));
    const byCourse = [...keyed(await list({ course: 'DRY' })), ...keyed(await list({ course: 'NET' }))];
    expect(byCourse.sort()).toEqual([...all].sort());
    const own = await changes(runtime, await viewerByEmail(runtime, 'instructor@staff.example'), { limit: '1000' });
    const numbers = own.rows.map(({ learner_id }) => Number(learner_id.slice(1)));
    expect(numbers.length).toBeGreaterThan(0);
    expect(numbers.every((i) => i % 4 === 2 && i % 3 !== 0)).toBe(true);
  });

  it('between two times and as of a day holds what happened then', async () => {
    const [from, to] = ['2026-10-05T00:00:00Z', '2026-10-07T00:00:00Z'];
    const all = keyed(await list({}));
    const time = (key: string) => Number(key.split(' ')[0]);
    expect(keyed(await list({ from, to }))).toEqual(
      all.filter((key) => time(key) >= Date.parse(from) && time(key) < Date.parse(to)),
    );
    const asOf = keyed(await list({ as_of: '2026-10-06' }));
    expect(asOf).toEqual(all.filter((key) => time(key) < Date.parse('2026-10-06T23:00:00Z')));
  });
});
