import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { PROGRESS } from '../completion/progress-list';
import { GRADES } from '../grades/grades-list';
import { CHANGES } from '../grades/changes-list';
import { ITEM_USE } from '../item-use/item-use';
import { SESSIONS } from '../sessions/sessions-list';
import { SYSTEM_VIEWER } from '../system-viewer';
import { bringIn, testRuntime, type TestRuntime } from '../testing';
import { WORK_DUE } from '../work/work-due-list';
import { NotFound } from './input';
import type { Asking, Params } from './list';
import { validParams } from './valid-params';

let runtime: TestRuntime;
beforeAll(async () => {
  runtime = await testRuntime('2026-11-24T12:00:00Z');
  await bringIn(
    runtime,
    'outline',
    'course,course_title,starts_on,ends_on,item_id,item,kind\nDRY,Drystone,2026-09-28,2026-12-21,D1,Stone,page\n',
  );
  await bringIn(runtime, 'roster', 'learner_id,given_name,course,enrolled_on\nL1,Ines,DRY,2026-09-28\n');
});
afterAll(() => runtime.close());

const sound = (list: Asking, params: Params) => validParams(runtime, SYSTEM_VIEWER, list, params);
const wrong = async (list: Asking, params: Params) => {
  const { params: left, faults } = await sound(list, params);
  return { left, fields: faults.map(({ field }) => field) };
};

describe('a link', () => {
  it('that is right is as it was, with what is not the list’s', async () => {
    const params = { course: 'DRY', sort: '-late', from: '2026-11-01', to: '2026-11-20', in: 'course:DRY', fold: 'no' };
    expect(await sound(WORK_DUE, params)).toEqual({ params, faults: [] });
  });

  it('loses each thing that is wrong, and keeps the others', async () => {
    expect(await wrong(WORK_DUE, { sort: 'nonsense', state: 'lost', course: 'DRY', from: 'soon' })).toEqual({
      left: { course: 'DRY' },
      fields: ['state', 'from', 'sort'],
    });
    expect(await wrong(GRADES, { status: 'gone', as_of: '2026-02-30', course: 'DRY' })).toEqual({
      left: { course: 'DRY' },
      fields: ['as_of', 'status'],
    });
    expect(await wrong(PROGRESS, { status: '30-100' })).toEqual({ left: {}, fields: ['status'] });
  });

  it.each([
    ['of its own two times', WORK_DUE],
    ['of a period', SESSIONS],
    ['of changes', CHANGES],
  ] as [string, Asking][])('with an end before its beginning loses the end: %s', async (_, list) => {
    expect(await wrong(list, { from: '2026-11-20', to: '2026-11-01' })).toEqual({
      left: { from: '2026-11-20' },
      fields: ['to'],
    });
  });

  it('of which two things are at odds loses one, and what is wrong only then is found too', async () => {
    expect(await wrong(SESSIONS, { period: 'today', from: '2026-11-20', to: '2026-11-01' })).toEqual({
      left: { from: '2026-11-20' },
      fields: ['period', 'to'],
    });
  });

  it('with a period that nothing says the times of loses it', async () => {
    for (const period of ['since-set', 'session'])
      expect(await wrong(ITEM_USE, { course: 'DRY', period })).toEqual({ left: { course: 'DRY' }, fields: ['period'] });
  });

  it('to a part that is not there is for the page that says so', async () => {
    await expect(sound(SESSIONS, { course: 'NONE' })).rejects.toThrow(NotFound);
  });
});
