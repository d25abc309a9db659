import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { listActions, listMappings } from '@/data/imports/mappings';
import type { Viewer } from '@/data/scope';
import { checkAll } from '../check';
import { learnerDetail } from '../people/learner-detail';
import { recalculate } from '../drift/recalculate';
import { bringIn, counts, logOf, smallRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { removeMapping, settleAction } from './mapping';

let runtime: TestRuntime;
let lead: Viewer;

beforeEach(async () => {
  runtime = await smallRuntime();
  lead = await viewerByEmail(runtime, 'lead@staff.example');
});
afterEach(() => runtime.close());

const FILE = `Student Number;First name;Surname;Class;Joined;Shoe size
77001;Zelda;Arkwright;DRY;03/11/2026;38
77002;Bo;Tarn;DRY;30/02/2026;44
`;
const SPEC = {
  columns: {
    student_number: 'learner_id',
    first_name: 'given_name',
    surname: 'family_name',
    class: 'course',
    joined: 'enrolled_on',
    shoe_size: null,
  },
  dates: 'day_first',
  timezone: 'Europe/Lisbon',
};
const campus = (mapping?: object) => ({ source: 'campus', ...(mapping ? { mapping: JSON.stringify(mapping) } : {}) });

describe('a file whose headings are not ours', () => {
  it('is refused without a mapping, read with one, and the mapping is remembered for its source', async () => {
    expect(await bringIn(runtime, 'roster', FILE, campus())).toMatchObject({ state: 'failed' });
    const first = await bringIn(runtime, 'roster', FILE, campus(SPEC));
    expect(counts(first)).toEqual({ state: 'done', read: 2, accepted: 1, duplicate: 0, rejected: 1 });
    expect(first.timezone).toBe('Europe/Lisbon');
    expect(await learnerDetail(runtime, lead, '77001')).toMatchObject({
      name: 'Zelda Arkwright',
      enrolments: [{ enrolled_on: '2026-11-03' }],
    });
    expect(counts(await bringIn(runtime, 'roster', FILE, campus()))).toMatchObject({ state: 'done', duplicate: 1 });
    expect(await bringIn(runtime, 'roster', FILE, { source: 'another' })).toMatchObject({ state: 'failed' });
    expect(await listMappings(runtime.db)).toMatchObject([{ source: 'campus', kind: 'roster', mapping: SPEC }]);
    await removeMapping(runtime, lead, 'campus', 'roster');
    expect(await bringIn(runtime, 'roster', FILE, campus())).toMatchObject({ state: 'failed' });
  });

  it('mapped two columns to one, or without an order of dates, is refused before anything is stored', async () => {
    const double = { ...SPEC, columns: { ...SPEC.columns, shoe_size: 'learner_id' } };
    await expect(bringIn(runtime, 'roster', FILE, campus(double))).rejects.toThrow(
      'student_number and shoe_size are both mapped to learner_id',
    );
    await expect(bringIn(runtime, 'roster', FILE, campus({ ...SPEC, dates: undefined }))).rejects.toThrow(
      'dates is missing',
    );
    await expect(bringIn(runtime, 'roster', FILE, campus({ ...SPEC, columns: { class: 'height' } }))).rejects.toThrow(
      'height',
    );
    await expect(bringIn(runtime, 'roster', FILE, { mapping: 'nonsense' })).rejects.toThrow('mapping is not JSON');
    expect(await runtime.db('import_run').where('kind', 'roster').count('* as n')).toEqual([{ n: 1 }]);
    expect(await listMappings(runtime.db)).toEqual([]);
  });

  it('may be a log, with times in the mapping’s zone', async () => {
    const log = 'When,User,Course,Verb\n11/24/2026 8:30 AM,L1,DRY,opened\n11/24/2026 9:30 PM,L1,DRY,opened\n';
    const mapping = {
      columns: { when: 'time', user: 'learner_id', course: 'course', verb: 'action' },
      dates: 'month_first',
      timezone: 'Europe/Helsinki',
    };
    // 21:30 in Helsinki is still to come at 09:10 in Dublin.
    expect(counts(await bringIn(runtime, 'access-log', log, campus(mapping)))).toMatchObject({
      accepted: 1,
      rejected: 1,
    });
    expect(await learnerDetail(runtime, lead, 'L1')).toMatchObject({ last_access: '2026-11-24T06:30:00Z' });
  });
});

describe('action words', () => {
  const LINES = [
    '2026-11-20T10:00:00Z,L1,DRY,D1,glimpsed',
    '2026-11-20T10:05:00Z,L1,DRY,D1,glimpsed',
    '2026-11-20T10:06:00Z,L4,DRY,D1,opened',
  ];

  it('that are unknown are listed with their counts, and mapping one makes the figures anew', async () => {
    await bringIn(runtime, 'access-log', logOf(LINES));
    expect((await listActions(runtime.db)).map(({ word, events, settled }) => [word, events, settled])).toEqual([
      ['glimpsed', 2, 0],
      ['opened', 1, 1],
    ]);
    // Once more the same file: nothing is counted twice.
    await bringIn(runtime, 'access-log', logOf(LINES));
    const [glimpsed] = await listActions(runtime.db);
    expect(glimpsed.events).toBe(2);
    const opens = async () => (await runtime.db('item_day').sum({ n: 'opens' }).first())!.n;
    expect(await opens()).toBe(1);
    await settleAction(runtime, lead, glimpsed.id, { kind: 'looked' });
    expect((await listActions(runtime.db)).find((one) => one.word === 'glimpsed')).toMatchObject({
      settled: 1,
      derive_anew: 1,
    });
    await recalculate(runtime);
    expect(await opens()).toBe(3);
    expect((await checkAll(runtime)).problems).toEqual([]);
    expect((await listActions(runtime.db)).some((one) => one.derive_anew === 1)).toBe(false);
  });

  it('are mapped by a lead, to a kind there is', async () => {
    await bringIn(runtime, 'access-log', logOf(LINES));
    const [glimpsed] = await listActions(runtime.db);
    await expect(settleAction(runtime, lead, glimpsed.id, { kind: 'dreamt' })).rejects.toThrow('kind is not one of');
    const mentor = await viewerByEmail(runtime, 'mentor@staff.example');
    await expect(settleAction(runtime, mentor, glimpsed.id, { kind: 'looked' })).rejects.toThrow();
    await settleAction(runtime, lead, glimpsed.id, { kind: 'other' });
    expect((await listActions(runtime.db)).find((one) => one.word === 'glimpsed')).toMatchObject({
      settled: 1,
      derive_anew: 0,
    });
  });
});
