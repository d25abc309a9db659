/** Trials and fits that are worked on beside everything else: asked for, cancelled, taken over, kept; and cohorts of every sort. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { dateOfDay, dayFromDate } from '@/core/time/zone';
import { findTrialRun, openTrialRuns } from '@/data/trial/runs';
import { enterBreak } from '../courses/calendar';
import { saveSetting } from '../drift/settings';
import { makeOwner } from '../owner';
import { nameGap } from '../feed/feed';
import { mergeLearners } from '../people/merging';
import { findLearner } from '../people/reads';
import { SYSTEM_VIEWER } from '../system-viewer';
import { bringIn, logOf, testRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { DEFAULT_SETTING, numbersOf } from '@/core/drift/setting';
import { trialRunPage, trialsPage } from './pages';
import { askForTrial, cancelTrial, workOnTrial } from './runs';
import { pastTrials } from './trial';

const SPRING = dayFromDate('2026-03-02')!;
const at = (day: number, hour = 10) => `${dateOfDay(day)}T${String(hour).padStart(2, '0')}:00:00Z`;

interface Cohort {
  code: string;
  people: number;
  leavers: number;
  weeks: number;
  /** Without dates of work, and of nothing but opens. */
  bare?: boolean;
  /** Nothing of the log's second half. */
  halfLog?: boolean;
  /** Two in three are enrolled later than two weeks after the beginning. */
  anyTime?: boolean;
  length?: number;
  start?: number;
}

function filesOf({ code, people, leavers, weeks, bare, halfLog, anyTime, length = 7 * weeks, start = SPRING }: Cohort) {
  const end = start + length - 1;
  const outline = [
    'course,course_title,starts_on,ends_on,item_id,item,kind,required,due_at,points',
    `${code},${code},${dateOfDay(start)},${dateOfDay(end)},${code}-P,Page,page,no,,`,
    ...(bare
      ? []
      : Array.from(
          { length: weeks },
          (_, week) =>
            `${code},${code},${dateOfDay(start)},${dateOfDay(end)},${code}-W${week},Sheet ${week},assignment,yes,${at(start + 7 * week + 6, 18)},10`,
        )),
    '',
  ];
  const roster = ['learner_id,given_name,organisation,course,group,enrolled_on'];
  const log: string[] = [];
  for (let i = 0; i < people; i += 1) {
    const begins = start + (anyTime && i % 3 > 0 ? 15 + (i % 10) : 0);
    const leaves = i < leavers ? begins + 25 + (i % 4) * 3 : end + 1;
    const organisation = i % 2 ? 'Norrick' : '';
    roster.push(`${code}${i},Ines ${i},${organisation},${code},G${i % 2},${dateOfDay(begins)}`);
    // One in four comes on Saturdays and Sundays alone.
    const comes = (day: number) => (i % 4 === 3 ? (day + 3) % 7 >= 5 : (day + i) % (i < leavers ? 2 : 3) === 0);
    for (let day = begins; day < leaves; day += 1) {
      if (halfLog && day > start + length / 2) break;
      if (comes(day)) log.push(`${at(day)},${code}${i},${code},${code}-P,opened`);
      const week = Math.floor((day - start) / 7);
      const hands = !bare && (day - start) % 7 === 4 && day < leaves - (i < leavers ? 21 : 0) && week < weeks;
      if (hands) log.push(`${at(day, 12)},${code}${i},${code},${code}-W${week},submitted`);
    }
  }
  return { outline: outline.join('\n'), roster: `${roster.join('\n')}\n`, log: logOf(log) };
}

const COHORTS: Cohort[] = [
  { code: 'OLD', people: 80, leavers: 30, weeks: 10 },
  { code: 'ANY', people: 60, leavers: 22, weeks: 12, anyTime: true },
  { code: 'BARE', people: 60, leavers: 22, weeks: 10, bare: true },
  { code: 'HALF', people: 40, leavers: 12, weeks: 10, halfLog: true },
  { code: 'LONG', people: 30, leavers: 22, weeks: 104, start: SPRING - 520 },
  { code: 'SIX', people: 8, leavers: 3, weeks: 1, length: 6 },
  { code: 'ONE', people: 10, leavers: 1, weeks: 10 },
  { code: 'NONE', people: 10, leavers: 0, weeks: 8 },
  { code: 'ALL', people: 10, leavers: 10, weeks: 10 },
];

let runtime: TestRuntime;
beforeAll(async () => {
  runtime = await testRuntime('2026-11-24T09:10:00Z');
  for (const cohort of COHORTS) {
    const { outline, roster, log } = filesOf(cohort);
    await bringIn(runtime, 'outline', outline);
    await bringIn(runtime, 'roster', roster);
    await bringIn(runtime, 'access-log', log, { source: cohort.code });
  }
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

const lead = () => viewerByEmail(runtime, 'lead@staff.example');
const ask = async (values: Record<string, string>, kind: 'trial' | 'fit' = 'trial') =>
  askForTrial(runtime, await lead(), kind, values);
const page = async (id: number) => trialRunPage(runtime, await lead(), id);
const workAll = async () => {
  while (await workOnTrial(runtime, makeOwner()));
};

describe('a trial that was asked for', () => {
  it('is kept with its curve, its parts and whom it missed, and says what GET trial says', async () => {
    const id = await ask({ course: 'OLD,ANY', rule: 'watch,quiet>=14,filter:quiet=10' });
    expect((await page(id)).run).toMatchObject({ state: 'waiting', by: 'Hesper Vane' });
    await workAll();
    const { run, trial, missed, forNothing } = await page(id);
    expect(run).toMatchObject({ state: 'done', done: 100 });
    const [asked] = await pastTrials(runtime, SYSTEM_VIEWER, { course: 'OLD,ANY' });
    expect(trial!.trials[0].recall!.value).toBeCloseTo(asked.trial.figures!.rule.recall.value!, 3);
    expect(trial!.trials.map(({ title }) => title)).toEqual([
      'the Watch',
      'quiet 14 days or more, or never',
      'quiet 10 days or more',
    ]);
    expect(trial!.curve!.rules).toHaveLength(3);
    expect(missed).toHaveLength(Math.min(30, trial!.trials[0].missed));
    expect(forNothing.length).toBeGreaterThan(0);
    for (const { wake, lastDay } of missed) expect(wake.firstDay + wake.active.at(-1)!).toBe(lastDay);
    const names = (by: string) =>
      trial!.parts
        .find((one) => one.by === by)!
        .parts.map(({ name }) => name)
        .sort();
    expect(names('kind of course')).toEqual(['begun at any time', 'without sessions']);
    expect(names('organisation')).toEqual(['Norrick', 'on their own']);
    expect(names('when they studied')).toContain('mostly at weekends');
    expect(names('group')).toHaveLength(4);
  });

  it('by a saved filter is by what the list of learners held then, and refuses what is not known of a past day', async () => {
    const [ten, seven] = await pastTrials(runtime, SYSTEM_VIEWER, { course: 'OLD', rule: 'filter:quiet=10,quiet>=10' });
    expect(ten.trial.figures!.rule.perWeek).toBeCloseTo(seven.trial.figures!.rule.perWeek!, 5);
    expect(ten.trial.figures!.rule.recall).toEqual(seven.trial.figures!.rule.recall);
    for (const wrong of [
      'filter:overdue=3',
      'filter:band=adrift',
      'filter:q=Ines',
      'filter:sort=name',
      'watch:99',
      'watch:luck=3',
      'drift:late_late=900',
      'drift:__proto__=3',
      'filter:quiet=abc',
      "filter:' OR 1",
    ])
      await expect(ask({ rule: wrong })).rejects.toMatchObject({ errors: [{ field: 'rule' }] });
    await expect(ask({ rule: 'watch,drift,quiet>=1,quiet>=2,quiet>=3' })).rejects.toMatchObject({
      errors: [{ field: 'rule' }],
    });
    await expect(ask({ course: 'OLD,NOWHERE' })).rejects.toMatchObject({ errors: [{ field: 'course' }] });
  });

  it('is cancelled, waiting or under way, and nothing of it is kept', async () => {
    const waiting = await ask({ course: 'OLD' });
    await cancelTrial(runtime, await lead(), waiting);
    expect(await workOnTrial(runtime, makeOwner())).toBe(false);
    expect((await page(waiting)).run.state).toBe('cancelled');
    await expect(cancelTrial(runtime, await lead(), waiting)).rejects.toThrow('waiting or under way');

    const under = await ask({});
    const work = workOnTrial(runtime, makeOwner());
    // It is begun, and then somebody says no.
    while ((await page(under)).run.state === 'waiting') await new Promise((resolve) => setTimeout(resolve, 2));
    await cancelTrial(runtime, await lead(), under);
    await work;
    expect((await page(under)).run.state).toBe('cancelled');
    expect((await findTrialRun(runtime.db, SYSTEM_VIEWER, under))!.result).toBeNull();
  });

  it('of a process that died is begun again by another, and given up after three', async () => {
    const id = await ask({ course: 'SIX' });
    const dead = async (tries: number) =>
      runtime
        .db('trial_run')
        .where({ id })
        .update({ state: 'running', owner: 'somewhere|1|2|x', lease_until: 0, tries });
    // Three processes that were stopped in good order are no broken ones.
    for (let stop = 0; stop < 3; stop += 1) await dead(0);
    await dead(1);
    await workAll();
    expect((await page(id)).run.state).toBe('done');
    const again = await ask({ course: 'SIX' });
    await runtime.db('trial_run').where({ id: again }).update({ tries: 3 });
    await workAll();
    expect((await page(again)).run).toMatchObject({ state: 'failed', says: expect.stringContaining('begun 3 times') });
  });

  it('is worked on by one of two at a time, and a fit that is asked for twice says the same twice', async () => {
    const ids = [await ask({}, 'fit'), await ask({}, 'fit')];
    await Promise.all([workAll(), workAll()]);
    const [first, second] = await Promise.all(ids.map(page));
    expect(first.run.state).toBe('done');
    expect(second.fit).toEqual(first.fit);
    expect(second.trial!.trials).toEqual(first.trial!.trials);
    expect(first.trial!.trials.map(({ title }) => title)).toContain('the Watch, default weights');
    const runs = await runtime.db('trial_run').whereIn('id', ids).pluck('tries');
    expect(runs).toEqual([0, 0]);
  });

  it('is a lead’s, and no more than ten wait', async () => {
    const mentor = await viewerByEmail(runtime, 'mentor@staff.example');
    for (const work of [
      () => askForTrial(runtime, mentor, 'trial', {}),
      () => cancelTrial(runtime, mentor, 1),
      () => trialsPage(runtime, mentor),
      () => trialRunPage(runtime, mentor, 1),
    ])
      await expect(work()).rejects.toThrow('was found here');
    await expect(page(99_999)).rejects.toThrow('No such trial');
    await expect(page(Number.NaN)).rejects.toThrow('No such trial');
    for (let i = 0; i < 10; i += 1) await ask({ course: 'SIX' });
    await expect(ask({ course: 'SIX' })).rejects.toThrow('10 trials are waiting already');
    for (const { id } of await openTrialRuns(runtime.db)) await cancelTrial(runtime, await lead(), id);
  });
});

describe('cohorts of every sort', () => {
  const trial = async (course: string) =>
    (await pastTrials(runtime, SYSTEM_VIEWER, { course, rule: 'watch,drift' }))[0];

  it('of one leaver, none, all, or six days are counted, and say that they are too few', async () => {
    for (const [code, leavers] of [
      ['ONE', 1],
      ['NONE', 0],
      ['ALL', 10],
      ['SIX', 0],
    ] as const) {
      const found = await trial(code);
      expect([code, found.trial.leavers, found.trial.figures]).toEqual([code, leavers, null]);
      expect(found.says).toContain('too little to tell by');
    }
    const fit = await page(await ask({ course: 'ONE,NONE,ALL,SIX' }, 'fit'));
    await workAll();
    expect((await page(fit.run.id)).fit).toMatchObject({ proposed: false, says: expect.stringContaining('Refused') });
  });

  it('of two years have each of their weeks, and nobody who was gone for long leaves again', async () => {
    const { trial: found, notes } = await trial('LONG');
    expect([found.leavers, found.auc.length, notes]).toEqual([22, 104, []]);
    // Whoever has been gone for long can leave no more.
    expect(found.auc.at(-1)).toMatchObject({ leavers: 0, rule: { value: null } });
  });

  it('without dates, sessions or talk are read by what there is', async () => {
    const { figures, leavers } = (await trial('BARE')).trial;
    expect(leavers).toBe(22);
    expect(figures!.rule.recall.value).not.toBeNull();
  });

  it('half of whose log is missing say so, and call nobody a leaver for it once the gap is named', async () => {
    const half = await trial('HALF');
    expect(half.trial.leavers).toBe(40);
    expect(half.notes).toEqual([
      expect.stringMatching(/^HALF: nothing stands in its log after .* name it under Sources/),
    ]);
    expect((await trial('OLD')).notes).toEqual([]);
    const [from, to] = [SPRING + 36, SPRING + 70];
    await nameGap(runtime, SYSTEM_VIEWER, { source: 'HALF', from: dateOfDay(from), to: dateOfDay(to) });
    const named = await trial('HALF');
    // Whoever was there shortly before it may have gone on: of nobody is it known that they left.
    expect([named.trial.leavers, named.notes]).toEqual([0, []]);
  });

  it('with a break of half of it are listed on its other weeks alone', async () => {
    const weeks = async () => (await trial('OLD')).trial.auc.length;
    expect(await weeks()).toBe(10);
    await enterBreak(runtime, SYSTEM_VIEWER, {
      course: 'OLD',
      from: dateOfDay(SPRING + 14),
      to: dateOfDay(SPRING + 48),
    });
    expect(await weeks()).toBe(5);
  });

  it('have whoever was merged once, and whoever moved between groups in the last', async () => {
    const before = (await trial('ANY')).trial;
    await bringIn(
      runtime,
      'roster',
      `learner_id,given_name,course,group,enrolled_on\nTWIN,Ines 0,ANY,G0,${dateOfDay(SPRING)}\nANY1,Ines 1,ANY,G0,${dateOfDay(SPRING)}\n`,
    );
    expect((await trial('ANY')).trial.learners).toBe(before.learners + 1);
    const [kept, gone] = await Promise.all(['ANY0', 'TWIN'].map((one) => findLearner(runtime, SYSTEM_VIEWER, one)));
    await mergeLearners(runtime, SYSTEM_VIEWER, kept!, gone!);
    expect((await trial('ANY')).trial.learners).toBe(before.learners);
    expect((await trial('ANY')).trial.leavers).toBe(before.leavers);
  });

  it('are tried by any setting there ever was', async () => {
    const numbers = numbersOf(DEFAULT_SETTING);
    await saveSetting(runtime, await lead(), { ...numbers, quiet_early: '100', quiet_late: '100', words: 'Quiet' });
    const [{ id }] = await runtime.db('drift_setting').select('id');
    const rules = ['drift', `drift:${id}`, 'drift:default', 'drift:quiet_early=100;quiet_late=100'];
    const found = await pastTrials(runtime, SYSTEM_VIEWER, { course: 'ANY', rule: rules.join() });
    const reach = found.map(({ trial: one }) => one.figures!.rule);
    expect(reach[0]).toEqual(reach[1]);
    expect(reach[0]).not.toEqual(reach[2]);
    expect(reach[3]).toEqual(reach[0]);
    expect(found[3].title).toBe('drift alone with Quiet, early 5 → 100, Quiet, late 5 → 100');
    expect((await trialsPage(runtime, await lead())).rules.map(({ value }) => value)).toContain('watch:default');
  });
});
