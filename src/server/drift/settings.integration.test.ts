/** Weights of drift: tried, kept, of a course, gone back from, and what stays of what was read before. */
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { FACTORS } from '@/core/drift/model';
import { DEFAULT_SETTING, numbersOf } from '@/core/drift/setting';
import { dateOfDay, dayFromDate } from '@/core/time/zone';
import type { Viewer } from '@/data/scope';
import { driftOf } from '@/data/drift/readings';
import { checkAll } from '../check';
import { explainPeople } from '../people/people';
import { openDriftView } from '../request/view';
import { SYSTEM_VIEWER } from '../system-viewer';
import { bringIn, logOf, testRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { readAllPast, recalculate } from './recalculate';
import { previewSetting } from './setting-preview';
import { backToSetting, saveSetting, settingPage } from './settings';
import { needOrder, readWatchFilter, watchPage } from './watch';

const TODAY = dayFromDate('2026-11-10')!;
const START = TODAY - 42;
const CODES = ['DRY', 'NET'];
/** Two learners a course who hand in and are quiet, two who are there and owe, one who does both. */
const WAYS = ['quiet', 'quiet', 'owes', 'owes', 'both'] as const;
const at = (day: number) => `${dateOfDay(day)}T10:00:00Z`;

const OUTLINE = [
  'course,course_title,starts_on,ends_on,item_id,item,kind,required,due_at',
  ...CODES.flatMap((code) => [
    `${code},${code},${dateOfDay(START)},2026-12-21,${code}P,Page,page,no,`,
    ...Array.from(
      { length: 6 },
      (_, week) =>
        `${code},${code},${dateOfDay(START)},2026-12-21,${code}${week},Sheet,assignment,yes,${at(START + 7 * week + 5)}`,
    ),
  ]),
  '',
].join('\n');
const learnerOf = (code: string, i: number) => `${code}-L${i}`;
const ROSTER = [
  'learner_id,given_name,course,enrolled_on',
  ...CODES.flatMap((code) => WAYS.map((_, i) => `${learnerOf(code, i)},Ines ${i},${code},${dateOfDay(START)}`)),
  '',
].join('\n');
const STAFF = `staff_id,given_name,family_name,email,role,scope_kind,scope
S1,Hesper,Vane,lead@staff.example,lead,all,
S2,Mair,Tolland,mentor@staff.example,mentor,course,DRY
`;
const LOG = CODES.flatMap((code) =>
  WAYS.flatMap((way, i) =>
    Array.from({ length: 43 }, (_, n) => START + n).flatMap((day) => {
      const who = learnerOf(code, i);
      const isThere = way === 'owes' || day < TODAY - 8;
      const sheet = (day - START - 3) / 7;
      const hands = way !== 'both' || sheet < 3;
      return [
        ...(isThere && day % 2 === 0 ? [`${at(day)},${who},${code},${code}P,opened`] : []),
        ...(way !== 'owes' && hands && isThere && Number.isInteger(sheet)
          ? [`${at(day)},${who},${code},${code}${sheet},submitted`]
          : []),
      ];
    }),
  ),
);

const numbers = (more: Record<string, string> = {}) => ({ ...numbersOf(DEFAULT_SETTING), ...more });
const QUIET = { quiet_early: '90', quiet_late: '90' };

let runtime: TestRuntime;
let lead: Viewer;
/** Everybody's score on a day, by their id. */
const scores = async (day?: number) => {
  const view = await openDriftView(runtime, SYSTEM_VIEWER, {}, day === undefined ? undefined : dateOfDay(day));
  return new Map((await driftOf(runtime.db, view, 'name')).map((row) => [row.learner_id, row.score]));
};

beforeEach(async () => {
  runtime = await testRuntime(`${dateOfDay(TODAY)}T12:00:00Z`, 'UTC');
  await bringIn(runtime, 'outline', OUTLINE);
  await bringIn(runtime, 'roster', ROSTER);
  await bringIn(runtime, 'staff', STAFF);
  await bringIn(runtime, 'access-log', logOf(LOG));
  await readAllPast(runtime);
  lead = await viewerByEmail(runtime, 'lead@staff.example');
});
afterEach(async () => {
  expect((await checkAll(runtime)).problems).toEqual([]);
  await runtime.close();
});

describe('before it is kept', () => {
  it('a setting says who joins and who leaves, and what comes is what it said', async () => {
    const before = await scores();
    const preview = await previewSetting(runtime, lead, numbers(QUIET));
    expect(preview.changes).toEqual(['Quiet, early 5 → 90', 'Quiet, late 5 → 90']);
    expect(preview.movers.length).toBeGreaterThan(0);
    for (const { learnerId, why, before: was, after: is } of preview.movers) {
      expect(before.get(learnerId)).toBe(was.score);
      expect([learnerId, why[0], is.score! > was.score!]).toEqual([
        learnerId,
        expect.stringMatching(/^Quiet \d+ → \d+$|^Missing work \d+ → \d+$/),
        learnerId.endsWith('L0') || learnerId.endsWith('L1') || learnerId.endsWith('L4'),
      ]);
    }
    // Nothing was kept.
    expect(await scores()).toEqual(before);
    await saveSetting(runtime, lead, { ...numbers(QUIET), words: 'Quiet matters here' });
    await recalculate(runtime);
    const view = await openDriftView(runtime, SYSTEM_VIEWER);
    const rows = await needOrder(runtime, view);
    const now = rows.filter(({ part, band }) => part === 'now' && (band ?? 0) > 0);
    expect(now).toHaveLength(preview.after);
    const after = await scores();
    for (const { learnerId, after: said } of preview.movers) expect(after.get(learnerId)).toBe(said.score);
  });

  it('away after fewer days moves people from now to away, by the days alone', async () => {
    const { movers, counts } = await previewSetting(runtime, lead, numbers({ away: '8' }));
    expect(counts.joins).toBe(0);
    expect(movers.map(({ learnerId, after }) => [learnerId, after.part])).toContainEqual(['DRY-L4', 'away']);
    expect(movers.every(({ before, after }) => before.score === after.score)).toBe(true);
    expect(movers[0].why).toEqual(['now → away']);
  });

  it('is a lead’s, and names every number that is none', async () => {
    const mentor = await viewerByEmail(runtime, 'mentor@staff.example');
    for (const work of [
      () => previewSetting(runtime, mentor, numbers()),
      () => saveSetting(runtime, mentor, { ...numbers(QUIET), words: 'x' }),
      () => backToSetting(runtime, mentor, 0, { words: 'x' }),
      () => settingPage(runtime, mentor, undefined),
    ])
      await expect(work()).rejects.toThrow('was found here');
    const fields = async (more: Record<string, string>) => {
      try {
        await previewSetting(runtime, lead, numbers(more));
        return [];
      } catch (error) {
        return (error as { errors: { field: string }[] }).errors.map(({ field }) => field);
      }
    };
    expect(await fields({ quiet_early: '-1' })).toEqual(['quiet_early']);
    expect(await fields({ quiet_early: '1e9', late_late: 'x' })).toEqual(['late_late', 'quiet_early']);
    expect(await fields({ quiet_early: '100.5' })).toEqual(['quiet_early']);
    expect(await fields({ slipping: '60' })).toEqual(['adrift']);
    expect(await fields({ away: '2', contacted: '0' })).toEqual(['away', 'contacted']);
    expect(await fields({ away: '' })).toEqual(['away']);
    expect(await fields({ course: 'NOT' })).toEqual(['course']);
    const none = Object.fromEntries(FACTORS.map(({ name }) => [`${name}_early`, '0']));
    expect(await fields(none)).toHaveLength(FACTORS.length);
    expect(await fields({ quiet_early: '0.5', quiet_late: '100' })).toEqual([]);
  });
});

describe('a setting that is kept', () => {
  it('holds from its day on, and the days before stay as they were read, and say so', async () => {
    const days = Array.from({ length: 9 }, (_, i) => TODAY - 9 + i);
    const before = new Map<number, Awaited<ReturnType<typeof scores>>>();
    for (const day of days) before.set(day, await scores(day));
    const today = await scores();
    await saveSetting(runtime, lead, { ...numbers(QUIET), words: 'Quiet matters here' });
    await recalculate(runtime);
    expect(await scores()).not.toEqual(today);
    for (const day of days) expect([day, await scores(day)]).toEqual([day, before.get(day)]);

    // A file of a week ago comes late: its days are read anew by what held on them.
    await bringIn(runtime, 'access-log', logOf([`${at(TODAY - 5)},DRY-L0,DRY,DRYP,opened`]));
    await readAllPast(runtime);
    expect((await scores(TODAY - 6)).get('DRY-L0')).toBe(before.get(TODAY - 6)!.get('DRY-L0'));
    expect((await scores(TODAY - 5)).get('NET-L0')).toBe(before.get(TODAY - 5)!.get('NET-L0'));

    const told = async (day?: number) => {
      const view = await openDriftView(runtime, SYSTEM_VIEWER, {}, day === undefined ? undefined : dateOfDay(day));
      const { learnerId } = (await needOrder(runtime, view))[0];
      const [person] = await explainPeople(runtime, view, [learnerId], {
        wakeDays: 1,
        visits: 0,
        contacts: 0,
        status: 'active',
      });
      return person.enrolments[0].readOtherwise;
    };
    expect([await told(), await told(TODAY - 1)]).toEqual([false, true]);
    const watch = await watchPage(runtime, await openDriftView(runtime, lead), readWatchFilter({}), 1);
    expect(watch.changedOn).toBe(TODAY);
  });

  it('is kept with who, when and why, and one goes back to any earlier one', async () => {
    const plain = await scores();
    await saveSetting(runtime, lead, { ...numbers(QUIET), words: 'First' });
    runtime.setNow(`${dateOfDay(TODAY)}T13:00:00Z`);
    await saveSetting(runtime, lead, { ...numbers({ ...QUIET, slipping: '20' }), words: 'Second' });
    await recalculate(runtime);
    const { history, setting } = await settingPage(runtime, lead, undefined);
    expect(history.map(({ words, by }) => [words, by])).toEqual([
      ['Second', 'Hesper Vane'],
      ['First', 'Hesper Vane'],
    ]);
    expect(setting.edges.slipping).toBe(20);
    expect(await backToSetting(runtime, lead, history[1].id, { words: 'Too many' })).toEqual(['Slipping from 20 → 30']);
    expect(await backToSetting(runtime, lead, 0, { words: 'As it came' })).toEqual([
      'Quiet, early 90 → 5',
      'Quiet, late 90 → 5',
    ]);
    await recalculate(runtime);
    expect(await scores()).toEqual(plain);
    expect((await settingPage(runtime, lead, undefined)).history).toHaveLength(4);
    await expect(backToSetting(runtime, lead, 99, { words: 'x' })).rejects.toThrow('No such setting');
    await expect(backToSetting(runtime, lead, 0, { words: '' })).rejects.toMatchObject({
      errors: [{ field: 'words' }],
    });
    // The same again is no change.
    await expect(saveSetting(runtime, lead, { ...numbers(), words: 'x' })).rejects.toMatchObject({
      errors: [{ field: 'words' }],
    });
  });

  it('of a course is that course’s alone, with edges of its own, until it goes by the programme’s again', async () => {
    const plain = await scores();
    const of = (code: string, all: Map<string, number | null>) => [...all].filter(([id]) => id.startsWith(code));
    await saveSetting(runtime, lead, {
      ...numbers({ ...QUIET, slipping: '1', adrift: '2' }),
      course: 'NET',
      words: 'Here',
    });
    await recalculate(runtime);
    const after = await scores();
    expect(of('DRY', after)).toEqual(of('DRY', plain));
    expect(of('NET', after)).not.toEqual(of('NET', plain));
    const rows = await needOrder(runtime, await openDriftView(runtime, lead, { course: 'NET' }));
    expect(rows.every(({ band, score }) => band === (score! >= 2 ? 2 : score! >= 1 ? 1 : 0))).toBe(true);
    // What the programme sets passes it by.
    await saveSetting(runtime, lead, { ...numbers({ missing_early: '1', missing_late: '1' }), words: 'There' });
    await recalculate(runtime);
    expect(of('NET', await scores())).toEqual(of('NET', after));
    expect(of('DRY', await scores())).not.toEqual(of('DRY', plain));
    await backToSetting(runtime, lead, 0, { course: 'NET', words: 'As all' });
    await backToSetting(runtime, lead, 0, { words: 'As it came' });
    await recalculate(runtime);
    expect(await scores()).toEqual(plain);
    expect((await settingPage(runtime, lead, 'NET')).isOwn).toBe(false);
  });

  it('while readings are made is in them all the same', async () => {
    const plain = await scores();
    runtime.setNow(`${dateOfDay(TODAY + 1)}T12:00:00Z`);
    let isKept = false;
    await recalculate(runtime, {
      afterStep: async () => {
        if (isKept) return;
        isKept = true;
        await saveSetting(runtime, lead, { ...numbers(QUIET), words: 'In between' });
      },
    });
    await recalculate(runtime);
    expect(isKept).toBe(true);
    expect(await scores(TODAY)).toEqual(plain);
    const quiet = (await previewSetting(runtime, lead, numbers(QUIET))).changes;
    expect(quiet).toEqual([]);
  });
});
