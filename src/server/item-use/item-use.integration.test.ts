import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { dateOfDay, dayFromDate } from '@/core/time/zone';
import type { Viewer } from '@/data/scope';
import { whoDid } from './who-did';
import { learnerList } from '../people/learner-list';
import { itemUseOf, ITEM_USE, visits } from './item-use';
import { SYSTEM_VIEWER } from '../system-viewer';
import { askList, smallRuntime, viewerByEmail, type TestRuntime } from '../testing';

let runtime: TestRuntime;
const as = (email: string) => viewerByEmail(runtime, email);

beforeAll(async () => {
  runtime = await smallRuntime([
    '2026-11-09T23:30:00Z,L1,DRY,D1,opened',
    '2026-11-10T10:00:00Z,L1,DRY,D1,opened',
    '2026-11-10T10:05:00Z,L1,DRY,D2,submitted',
    '2026-11-12T10:00:00Z,L4,DRY,D1,glimpsed',
    '2026-10-15T10:00:00Z,L5,DRY,D1,opened',
    '2026-11-11T10:00:00Z,L3,NET,N1,opened',
    '2026-11-11T12:00:00Z,S3,DRY,D1,viewed',
  ]);
});
afterAll(() => runtime.close());

describe('reach', () => {
  const rowOf = async (item: string, values = {}, viewer: Viewer = SYSTEM_VIEWER) =>
    (await askList(ITEM_USE, runtime, viewer, values)).rows.find((row) => row.item_id === item);

  it('counts those enrolled now who opened, and leaves staff, those who left and the kind other out', async () => {
    expect(await rowOf('D1')).toMatchObject({ base: 3, openers: 1, opens: 2, never_opened: 2, unit: 'Week 1' });
    expect(await rowOf('D2')).toMatchObject({ openers: 1, opens: 1, first_opened: '2026-11-10T10:05:00Z' });
    expect(await rowOf('N1')).toMatchObject({ base: 2, openers: 1, opened_since_changed: null });
  });

  it('is of a group and of whole days', async () => {
    expect(await rowOf('D1', { course: 'DRY', group: 'B' })).toMatchObject({ base: 1, openers: 0, first_opened: null });
    expect(await rowOf('D1', { from: '2026-11-10', to: '2026-11-11' })).toMatchObject({ opens: 1 });
    expect(await rowOf('D1', { from: '2026-11-09', to: '2026-11-10' })).toMatchObject({ opens: 1 });
    expect((await askList(ITEM_USE, runtime, SYSTEM_VIEWER, { course: 'DRY' })).rows.map((row) => row.item_id)).toEqual(
      ['D1', 'D2'],
    );
  });

  it('keeps to the viewer’s scope', async () => {
    expect(await rowOf('N1', {}, await as('instructor@staff.example'))).toBeUndefined();
    expect(await rowOf('D1', {}, await as('norrick@partner.example'))).toMatchObject({ base: 1, openers: 1 });
  });

  it('refuses a period that ends before it starts, and 30 February', async () => {
    await expect(askList(ITEM_USE, runtime, SYSTEM_VIEWER, { from: '2026-11-10', to: '2026-11-09' })).rejects.toThrow(
      'to does not lie after',
    );
    await expect(askList(ITEM_USE, runtime, SYSTEM_VIEWER, { from: '2026-02-30' })).rejects.toThrow(
      'from is not a time',
    );
    await expect(askList(ITEM_USE, runtime, SYSTEM_VIEWER, { course: 'NIX' })).rejects.toThrow('No such course');
  });
});

describe('has and has not', () => {
  const ask = async (values: object, viewer: Viewer = SYSTEM_VIEWER) => {
    const { did: has, did_not } = await whoDid(runtime, viewer, { item: 'D1', ...values });
    return [has.map((row) => [row.learner_id, row.count]), did_not.map((row) => [row.learner_id, row.other_last])];
  };

  it('goes by the second, and tells of an earlier or later one', async () => {
    expect(await ask({ from: '2026-11-10T10:00:00Z', to: '2026-11-10T10:00:01Z' })).toEqual([
      [['L1', 1]],
      [
        ['L2', null],
        ['L4', '2026-11-12T10:00:00Z'],
      ],
    ]);
    expect(await ask({ from: '2026-11-09T00:00:00Z', to: '2026-11-10T10:00:00Z', kind: 'looked' })).toEqual([
      [['L1', 1]],
      [
        ['L2', null],
        ['L4', null],
      ],
    ]);
  });

  it('has for its base whoever was enrolled at any moment of the period', async () => {
    const [has] = await ask({ from: '2026-10-14', to: '2026-10-16' });
    expect(has).toEqual([['L5', 1]]);
    expect((await ask({ from: '2026-11-01', to: '2026-11-20' })).flat().map(([id]) => id)).not.toContain('L5');
  });

  it('asks for a kind or an action over all items, and by group', async () => {
    expect((await ask({ item: '', kind: 'worked', from: '2026-11-01', to: '2026-11-30' }))[0]).toEqual([['L1', 1]]);
    expect((await ask({ item: '', action: 'glimpsed' }))[0]).toEqual([['L4', 1]]);
    expect(await ask({ course: 'DRY', group: 'B' })).toEqual([[], [['L2', null]]]);
  });

  it('keeps to the viewer’s scope, and needs something to ask for', async () => {
    // Over all time, L5 was enrolled too, before they left.
    expect(await ask({}, await as('norrick@partner.example'))).toEqual([
      [
        ['L5', 1],
        ['L1', 2],
      ],
      [],
    ]);
    await expect(ask({ item: 'N1' }, await as('instructor@staff.example'))).rejects.toThrow('No such item');
    await expect(ask({ item: '' })).rejects.toThrow('name an item, a unit, a kind or an action');
    await expect(ask({ kind: 'dreamt' })).rejects.toThrow('kind is not one of');
  });
});

describe('visits of a learner', () => {
  it('are those in the viewer’s sight, newest first, page by page', async () => {
    const first = await visits(runtime, SYSTEM_VIEWER, { learner: 'L1', limit: '1' });
    expect([first.total, first.rows]).toEqual([
      2,
      [
        {
          learner_id: 'L1',
          start: '2026-11-10T10:00:00Z',
          end: '2026-11-10T10:05:00Z',
          minutes: 6,
          events: 2,
          courses: ['DRY'],
        },
      ],
    ]);
    expect((await visits(runtime, SYSTEM_VIEWER, { learner: 'L1', to: '2026-11-10' })).total).toBe(1);
    await expect(visits(runtime, await as('instructor@staff.example'), { learner: 'L3' })).rejects.toThrow(
      'No such learner',
    );
    await expect(visits(runtime, SYSTEM_VIEWER, {})).rejects.toThrow('learner is missing');
  });
});

describe('a number of reach and the list it opens', () => {
  const lists = async (viewer: Viewer, values: Record<string, string>) =>
    (await learnerList(runtime, viewer, values)).rows.map((row) => row.learner_id);

  it('are the same people, for every viewer, part and period', async () => {
    const now = Date.parse('2026-11-24T09:10:00Z');
    const weekAgo = new Date(now - 7 * 86_400_000).toISOString();
    const parts: Record<string, string>[] = [
      { course: 'DRY' },
      { course: 'NET' },
      { course: 'DRY', group: 'A' },
      { course: 'DRY', organisation: 'Norrick' },
    ];
    const periods = [
      [],
      ['2026-11-10'],
      ['2026-11-09', '2026-11-10'],
      ['2026-11-10', '2026-11-10'],
      ['2026-11-20', '2026-11-24'],
    ];
    await runtime
      .db('item')
      .where('external_id', 'D1')
      .update({ changed_at: Date.parse('2026-11-10T09:00:00Z') });
    for (const email of [
      'lead@staff.example',
      'mentor@staff.example',
      'instructor@staff.example',
      'norrick@partner.example',
    ]) {
      const viewer = await as(email);
      for (const part of parts) {
        for (const [from, last] of periods) {
          const to = last && dateOfDay(dayFromDate(last)! + 1);
          const period = { ...(from ? { from } : {}), ...(to ? { to } : {}) };
          const asked = await itemUseOf(runtime, viewer, { ...part, ...period }).catch(() => null);
          for (const row of asked?.rows ?? []) {
            const days = { ...(from ? { opened_from: from } : {}), ...(last ? { opened_to: last } : {}) };
            const item = `${row.course}/${row.item_id}`;
            const { openers, base, openers_week_ago: before, opened_since_changed: since, changed_at } = row;
            const list = async (more: Record<string, string>) =>
              (await lists(viewer, { ...part, ...days, ...more })).length;
            const numbers = [openers, base - openers, openers - before, since ?? 0];
            expect([email, part, days, item, numbers]).toEqual([
              email,
              part,
              days,
              item,
              [
                await list({ opened: item }),
                await list({ not_opened: item }),
                await list({ opened: item, first_opened_since: weekAgo }),
                changed_at === null
                  ? 0
                  : await list({ opened: item, opened_since: new Date(changed_at).toISOString() }),
              ],
            ]);
          }
        }
      }
    }
  });

  it('needs one item, and days in order', async () => {
    const ask = (values: Record<string, string>) => learnerList(runtime, SYSTEM_VIEWER, values);
    await expect(ask({ opened_from: '2026-11-10' })).rejects.toThrow('opened_from stands beside opened');
    await expect(ask({ opened: 'DRY/D1', opened_from: '2026-11-10', opened_to: '2026-11-09' })).rejects.toThrow(
      'opened_to lies before',
    );
    await expect(ask({ opened: 'DRY/D1', not_opened: 'DRY/D2' })).rejects.toThrow('not_opened stands beside');
    await expect(ask({ opened: 'DRY/D1', opened_from: '2026-02-30' })).rejects.toThrow('opened_from is not a date');
  });
});
