/** Trials on past courses on finished courses: the same as what was read on each day, and what a rule comes to. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { DEFAULT_SETTING } from '@/core/drift/setting';
import { dateOfDay, dayFromDate } from '@/core/time/zone';
import { byDrift, endOf, seeGroup, weekEnds } from '@/core/trial/cohort';
import { withRaw } from '@/data/db';
import { courseDates } from '@/data/drift/drift';
import { driftOf } from '@/data/drift/readings';
import { cohortMembers, finishedCourses } from '@/data/trial/cohorts';
import { readAllPast } from '../drift/recalculate';
import { openDriftView } from '../request/view';
import { SYSTEM_VIEWER } from '../system-viewer';
import { bringIn, logOf, testRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { pastTrials, trialAsJson, trialAsText } from './trial';

const START = dayFromDate('2026-06-01')!;
const WEEKS = 10;
const END = START + 7 * WEEKS - 1;
const LEAVERS = 24;
const PEOPLE = 60;
const at = (day: number, hour = 10) => `${dateOfDay(day)}T${String(hour).padStart(2, '0')}:00:00Z`;

/** A sheet a week, and a page that everybody opens. */
const outlineOf = (code: string) => [
  'course,course_title,starts_on,ends_on,item_id,item,kind,required,due_at,points',
  `${code},${code},${dateOfDay(START)},${dateOfDay(END)},${code}-P,Page,page,no,,`,
  ...Array.from(
    { length: WEEKS },
    (_, week) =>
      `${code},${code},${dateOfDay(START)},${dateOfDay(END)},${code}-W${week},Sheet ${week},assignment,yes,${at(START + 7 * week + 6, 18)},10`,
  ),
  '',
];

/**
 * Leavers go on opening pages until the day they leave, but hand in nothing in the three weeks before it; the others come every
 * third day and hand in on time. One never comes, one says that they have left.
 */
function live(code: string, people: number, leavers: number) {
  const roster = ['learner_id,given_name,course,group,enrolled_on,status,ended_on'];
  const log: string[] = [];
  for (let i = 0; i < people; i += 1) {
    const leaves = i < leavers ? START + 30 + (i % 3) * 3 : END + 1;
    const said = i === 0 && leavers > 0 ? `withdrawn,${dateOfDay(leaves + 10)}` : 'active,';
    roster.push(`${code}${i},Ines ${i},${code},G${i % 3},${dateOfDay(START)},${said}`);
    if (i === people - 1) continue;
    for (let day = START + (i % 2); day < leaves; day += i < leavers ? 2 : 3)
      log.push(`${at(day)},${code}${i},${code},${code}-P,opened`);
    for (let week = 0; week < WEEKS; week += 1) {
      const day = START + 7 * week + 5;
      if (day < leaves - (i < leavers ? 21 : 0))
        log.push(`${at(day, 12)},${code}${i},${code},${code}-W${week},submitted`);
    }
  }
  return { roster: `${roster.join('\n')}\n`, log: logOf(log) };
}

let runtime: TestRuntime;
beforeAll(async () => {
  runtime = await testRuntime('2026-11-24T09:10:00Z');
  for (const [code, people, leavers] of [
    ['OLD', PEOPLE, LEAVERS],
    ['FEW', 12, 1],
    ['ALL', 6, 5],
    ['NONE', 6, 0],
  ] as const) {
    const { roster, log } = live(code, people, leavers);
    await bringIn(runtime, 'outline', outlineOf(code).join('\n'));
    await bringIn(runtime, 'roster', roster);
    await bringIn(runtime, 'access-log', log);
  }
  await bringIn(
    runtime,
    'outline',
    `course,course_title,starts_on,ends_on,item_id,item,kind,required
NOW,Now,2026-10-01,2026-12-21,N1,Knot,page,yes
OPEN,Open,2026-06-01,,O1,Knot,page,yes
`,
  );
  await bringIn(
    runtime,
    'roster',
    'learner_id,given_name,course,enrolled_on\nX1,Ines,NOW,2026-10-01\nX1,Ines,OPEN,2026-06-01\n',
  );
  await bringIn(
    runtime,
    'staff',
    `staff_id,given_name,family_name,email,role,scope_kind,scope
S1,Hesper,Vane,lead@staff.example,lead,all,
S2,Mair,Tolland,mentor@staff.example,mentor,course,OLD
`,
  );
});
afterAll(() => runtime.close());

const trial = async (values: Record<string, string>) => (await pastTrials(runtime, SYSTEM_VIEWER, values))[0];

describe('a cohort', () => {
  it('is each course that has ended, and nothing of one that goes on or has no end', async () => {
    expect((await finishedCourses(runtime.db, dayFromDate('2026-11-24')!)).map(({ code }) => code)).toEqual([
      'ALL',
      'FEW',
      'NONE',
      'OLD',
    ]);
    expect(await finishedCourses(runtime.db, END)).toEqual([]);
  });

  it('has a week’s end for each week that is not mostly a break', () => {
    const dates = { start: START, end: END, breaks: [[START + 7, START + 11] as const], feedGaps: [] };
    expect(weekEnds(dates).map(({ week }) => week)).toEqual([1, 3, 4, 5, 6, 7, 8, 9, 10]);
    expect(weekEnds({ ...dates, breaks: [[START + 7, START + 9]] })).toHaveLength(10);
    expect(weekEnds({ ...dates, end: START + 5 })).toEqual([]);
    expect(weekEnds({ ...dates, end: null })).toEqual([]);
  });

  it('tells who left from who was there until the end, or completed early', () => {
    const member = (last: number | null, more: object = {}) => ({
      enrolmentId: 1,
      enrolledDay: START,
      endedDay: null,
      before: null,
      hasWithdrawn: false,
      hasCompleted: false,
      days: { activeDays: last === null ? [] : [START, last], efforts: [] },
      ...more,
    });
    const left = (...of: Parameters<typeof member>) => endOf(member(...of), { end: END, feedGaps: [] }).left;
    expect([left(END - 28), left(END - 27), left(null)]).toEqual([true, false, true]);
    expect(left(END - 40, { hasCompleted: true })).toBe(false);
    expect(left(END, { hasWithdrawn: true })).toBe(true);
  });

  it('is read in a trial as it was read on each day', async () => {
    await readAllPast(runtime);
    const [course] = (await finishedCourses(runtime.db, dayFromDate('2026-11-24')!)).filter(
      ({ code }) => code === 'OLD',
    );
    const { zone } = runtime;
    const seen = await withRaw(runtime.db, (raw) => {
      const dates = courseDates(raw, course.id, zone);
      return course.groups.flatMap((group) => seeGroup(cohortMembers(raw, course.id, group, zone), dates, (id) => id));
    });
    expect(seen).toHaveLength(3 * WEEKS);
    const drift = byDrift(DEFAULT_SETTING);
    for (let week = 1; week <= WEEKS; week += 1) {
      const day = START + 7 * week - 1;
      const view = await openDriftView(runtime, SYSTEM_VIEWER, { course: 'OLD' }, dateOfDay(day));
      const stored = new Map((await driftOf(runtime.db, view, 'drift')).map(({ id, score }) => [id, score]));
      const read = new Map(
        seen.filter((one) => one.day === day).flatMap((one) => one.seen.map((own) => [own.place, drift(own)])),
      );
      expect([week, read]).toEqual([week, stored]);
    }
  });
});

describe('a trial', () => {
  it('finds those who hand in nothing before they are quiet, and says how sure it is', async () => {
    const { trial: found, says } = await trial({ course: 'OLD' });
    expect(says).toBeNull();
    // The one who never came is no leaver that could be found.
    expect(found).toMatchObject({ learners: PEOPLE, leavers: LEAVERS, neverCame: 1 });
    const { rule, quiet, chance, ratio } = found.figures!;
    expect(rule.recall.value!).toBeGreaterThan(quiet.recall.value!);
    expect(rule.lead.value!).toBeGreaterThan(quiet.lead.value!);
    expect(rule.recall.value!).toBeGreaterThan(chance.recall.value!);
    expect(ratio.low!).toBeLessThanOrEqual(ratio.value!);
    for (const { value, low, high } of [rule.recall, rule.precision, quiet.recall])
      expect([low! <= value!, value! <= high!]).toEqual([true, true]);
    expect(found.missed.length).toBe(Math.round(LEAVERS * (1 - rule.recall.value!)));
    expect(found.auc.map(({ week }) => week)).toEqual(Array.from({ length: WEEKS }, (_, i) => i + 1));
  });

  it('says the same when it is run again, and is held to its places', async () => {
    const [first, again] = [await trial({ course: 'OLD', people: '3' }), await trial({ course: 'OLD', people: '3' })];
    expect(again).toEqual(first);
    expect(first.trial.figures!.rule.perWeek!).toBeLessThanOrEqual(3);
    expect(first.trial.figures!.quiet.perWeek!).toBeLessThanOrEqual(3);
  });

  it('of several rules is that of each', async () => {
    const rules = ['watch', 'drift', 'quiet>=14'];
    const together = await pastTrials(runtime, SYSTEM_VIEWER, { course: 'OLD', rule: rules.join() });
    for (const [index, rule] of rules.entries()) expect(together[index]).toEqual(await trial({ course: 'OLD', rule }));
    const quiet = await trial({ course: 'OLD', rule: 'quiet>=7', people: '40' });
    expect(quiet.trial.figures!.ratio.value).toBe(1);
  });

  it('of too few leavers gives counts and no rates', async () => {
    const few = await trial({ course: 'FEW' });
    expect(few.says).toBe('1 leaver of 12 learners: under 20 there is too little to tell by.');
    expect(trialAsJson(few)).toMatchObject({
      recall: null,
      auc: [],
      quiet: { recall: null },
      recall_beside_quiet: null,
    });
    expect(trialAsText(few)).toContain('under 20');
    expect((await trial({ course: 'NONE' })).trial).toMatchObject({ leavers: 0, neverCame: 1, figures: null });
    expect((await trial({ course: 'ALL' })).trial).toMatchObject({ leavers: 5, neverCame: 1, figures: null });
    // Together there are enough.
    const all = await trial({});
    expect([all.courses, all.trial.leavers]).toEqual([['ALL', 'FEW', 'NONE', 'OLD'], LEAVERS + 6]);
    expect(trialAsJson(all).recall).toMatchObject({ value: expect.any(Number) });
    expect(trialAsText(all)).toMatch(/^found in time beside quiet 7: \d/m);
  });

  it('is cancelled by what it calls now and then', async () => {
    const stop = () => Promise.reject(new Error('enough'));
    await expect(pastTrials(runtime, SYSTEM_VIEWER, { course: 'OLD' }, stop)).rejects.toThrow('enough');
  });

  it('is a lead’s, and names what is wrong', async () => {
    const mentor = await viewerByEmail(runtime, 'mentor@staff.example');
    await expect(pastTrials(runtime, mentor, {})).rejects.toThrow();
    for (const wrong of [
      { course: 'NOW' },
      { course: 'OLD,NOT' },
      { rule: 'fading' },
      { rule: 'quiet>=' },
      { people: '0' },
    ])
      await expect(trial(wrong as unknown as Record<string, string>)).rejects.toMatchObject({
        errors: [{ field: Object.keys(wrong)[0] }],
      });
  });
});
