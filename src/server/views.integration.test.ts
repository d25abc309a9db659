import { text } from 'node:stream/consumers';
import type { Values } from './request/input';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { dayFromDate } from '@/core/time/zone';
import { addFeedGap } from '@/data/feed/feed-gaps';
import { findLearner } from '@/data/people/learners';
import type { Viewer } from '@/data/scope';
import { checkClaim } from './access/claim';
import { find } from './people/find';
import { LEARNERS, chooseColumns, chosenColumns, everyMatching, learnerList, lineOf } from './people/learner-list';
import { explainPeople } from './people/people';
import { readAllPast } from './drift/recalculate';
import { removeView, saveView, savedViews } from './people/saved-views';
import { bringIn, logOf, smallRuntime, viewerByEmail, type TestRuntime } from './testing';
import { listFile } from './request/list';
import { firstReadingDay, openDriftView } from './request/view';
import { PARTS } from '@/core/drift/order';
import { allMatching, watchPage } from './drift/watch';

let runtime: TestRuntime;
let lead: Viewer;

beforeEach(async () => {
  runtime = await smallRuntime();
  lead = await viewerByEmail(runtime, 'lead@staff.example');
  const daily = (who: string, from: number, to: number) =>
    Array.from(
      { length: to - from + 1 },
      (_, i) => `2026-10-${String(from + i).padStart(2, '0')}T10:00:00Z,${who},DRY,D1,opened`,
    );
  await bringIn(
    runtime,
    'access-log',
    logOf([
      ...daily('L1', 1, 31),
      ...daily('L4', 1, 9),
      '2026-11-20T10:00:00Z,L4,DRY,D2,submitted',
      '2026-11-24T08:00:00Z,S3,DRY,D1,opened',
    ]),
  );
});
afterEach(() => runtime.close());

const id = async (learner: string) => (await findLearner(runtime.db, lead, learner))!;
/** Everybody on the Watch, whatever part they stand in. */
const watch = async (asOf?: string) => {
  const view = await openDriftView(runtime, lead, { course: 'DRY' }, asOf);
  const parts = await Promise.all(PARTS.map((part) => watchPage(runtime, view, { part, band: null, drift: null }, 1)));
  return { people: parts.flatMap(({ people }) => people) };
};

describe('as of a past day', () => {
  it('shows drift, last access and who was enrolled as they were at its end', async () => {
    await readAllPast(runtime);
    const then = await watch('2026-10-20');
    const person = (learner: string, page: typeof then) => page.people.find((one) => one.learnerId === learner);
    expect(person('L1', then)).toMatchObject({ daysQuiet: 0, band: 0, lastAccess: Date.parse('2026-10-20T10:00:00Z') });
    expect(person('L4', then)).toMatchObject({ daysQuiet: 11, lastAccess: Date.parse('2026-10-09T10:00:00Z') });
    const past = await openDriftView(runtime, lead, { course: 'DRY' }, '2026-10-20');
    const detail = { wakeDays: 28, visits: 3, contacts: 1, status: 'active' } as const;
    const [panel] = await explainPeople(runtime, past, [person('L4', then)!.id], detail);
    expect(panel.visits[0].first).toBe(Date.parse('2026-10-09T10:00:00Z'));
    // L5 withdrew on that day: the day before they were still there.
    expect(person('L5', then)).toBeUndefined();
    expect(person('L5', await watch('2026-10-19'))).toBeDefined();
    expect(person('L1', await watch())).toMatchObject({ daysQuiet: 24 });
    const list = await learnerList(runtime, lead, { as_of: '2026-10-20', quiet: '7', sort: '-days_quiet' });
    expect(list.rows.map((row) => row.learner_id)).not.toContain('L1');
    expect(list.rows.find((row) => row.learner_id === 'L4')).toMatchObject({ ms: 9 * 60_000 });
  });

  it('goes back to the course’s start once idle time has read it, the same as reading it then', async () => {
    expect(await firstReadingDay(runtime)).toBe(dayFromDate('2026-11-17'));
    const stored = await runtime
      .db('drift_reading')
      .where('day', '>=', dayFromDate('2026-11-17')!)
      .orderBy(['enrolment_id', 'day']);
    await readAllPast(runtime);
    await readAllPast(runtime);
    expect(await firstReadingDay(runtime)).toBe(dayFromDate('2026-09-28'));
    expect(
      await runtime.db('drift_reading').where('day', '>=', dayFromDate('2026-11-17')!).orderBy(['enrolment_id', 'day']),
    ).toEqual(stored);
  });

  it('refuses 30 February and a day to come; today is now', async () => {
    await expect(openDriftView(runtime, lead, {}, '2026-02-30')).rejects.toThrow('as_of is not a date');
    await expect(openDriftView(runtime, lead, {}, '2026-11-25')).rejects.toThrow('as_of lies after today');
    expect((await openDriftView(runtime, lead, {}, '2026-11-24')).asOf).toBeNull();
    await expect(learnerList(runtime, lead, { as_of: '2026-02-30' })).rejects.toThrow('as_of is not a date');
  });

  it('selects all that matched then', async () => {
    await readAllPast(runtime);
    const view = await openDriftView(runtime, lead, {}, '2026-10-19');
    const parts = await Promise.all(PARTS.map((part) => allMatching(runtime, view, { part, band: null, drift: null })));
    // Of L3's course nothing was told yet: there nobody has never started.
    expect(parts.map((ids) => ids.length)).toEqual([3, 0, 0, 2]);
  });
});

describe('the Learners list', () => {
  it('narrows by what was opened and what never was', async () => {
    const list = async (values: object) =>
      (await learnerList(runtime, lead, { course: 'DRY', sort: 'learner_id', ...values })).rows.map(
        (row) => row.learner_id,
      );
    expect(await list({ opened: 'DRY/D2' })).toEqual(['L4']);
    expect(await list({ not_opened: 'DRY/D1' })).toEqual(['L2']);
    expect(await list({ not_opened: 'DRY/D2', q: 'ines' })).toEqual(['L1']);
    await expect(list({ opened: 'DRY/D9' })).rejects.toThrow('opened names an item that is not there');
    await expect(list({ opened: 'D9' })).rejects.toThrow('COURSE/ITEM');
  });

  it('selects everybody who matches, over all pages', async () => {
    expect(await everyMatching(runtime, lead, { quiet: '7', limit: '1' })).toHaveLength(3);
  });

  it('keeps the columns somebody chose, and gives a file of exactly those', async () => {
    expect(await chosenColumns(runtime, lead)).toHaveLength(10);
    await chooseColumns(runtime, lead, ['phone', 'drift', 'height']);
    expect(await chosenColumns(runtime, lead)).toEqual(['phone', 'drift']);
    const { rows, view } = await learnerList(runtime, lead, { sort: '-drift' });
    const chosen = await chosenColumns(runtime, lead);
    const file = await listFile(LEARNERS, { runtime, viewer: lead }, { sort: '-drift' }, 'csv', chosen);
    const [heading, ...lines] = (await text(file)).replace('\uFEFF', '').trim().split('\r\n');
    expect(heading).toBe('learner_id,name,phone,drift,band');
    expect(lines.map((line) => line.split(',')[0])).toEqual(rows.map((row) => row.learner_id));
    expect(
      lineOf(
        rows.find((row) => row.learner_id === 'L4')!,
        { now: view.now, zone: runtime.zone },
      ),
    ).toMatchObject({
      name: 'Petra Sandoval',
      cells: [
        '',
        '',
        'on their own',
        'DRY',
        'Fri 20 Nov, 10:00',
        'quiet 4 days',
        'about 10 min',
        'no reading',
        'nothing overdue',
        'Mon 28 Sep',
        'no contact',
      ],
    });
  });

  it('of a view that names a course that is gone says so', async () => {
    await expect(learnerList(runtime, lead, { course: 'OLD' })).rejects.toThrow('No such course');
  });
});

describe('saved views', () => {
  it('are one’s own, replaced by name, and removed', async () => {
    await saveView(runtime, lead, { name: 'Quiet', query: 'quiet=7' });
    await saveView(runtime, lead, { name: 'Quiet', query: 'quiet=9' });
    await expect(saveView(runtime, lead, { name: ' ' })).rejects.toThrow('name is missing');
    const [view] = await savedViews(runtime, lead);
    expect(view).toMatchObject({ name: 'Quiet', query: 'quiet=9' });
    const other = await viewerByEmail(runtime, 'mentor@staff.example');
    expect(await savedViews(runtime, other)).toEqual([]);
    await expect(removeView(runtime, other, view.id)).rejects.toThrow('No such view');
    await removeView(runtime, lead, view.id);
    expect(await savedViews(runtime, lead)).toEqual([]);
  });
});

describe('search from every screen', () => {
  it('finds learners, courses and items by any part, within the viewer’s sight', async () => {
    const search = async (email: string, text: string) => {
      const found = await find(runtime, await openDriftView(runtime, await viewerByEmail(runtime, email)), text);
      return [
        found.learners.map((one) => one.learnerId),
        found.courses.map((one) => one.code),
        found.items.map((one) => one.item),
      ];
    };
    expect(await search('lead@staff.example', 'work')).toEqual([[], ['NET'], []]);
    expect(await search('lead@staff.example', 'knot')).toEqual([[], [], ['Knots']]);
    expect(await search('lead@staff.example', 'MARR ines')).toEqual([['L1'], [], []]);
    expect(await search('lead@staff.example', '960003')).toEqual([['L3'], [], []]);
    expect(await search('lead@staff.example', '%')).toEqual([[], [], []]);
    expect(await search('lead@staff.example', '  ')).toEqual([[], [], []]);
    expect(await search('instructor@staff.example', 'knot')).toEqual([[], [], []]);
    expect(await search('one@staff.example', 'o')).toEqual([['L3'], ['NET'], ['Knots']]);
  });
});

describe('a claim check', () => {
  const check = async (values: Values, learner = 'L4') =>
    checkClaim(runtime, await openDriftView(runtime, lead), await id(learner), values);

  it('gives visits, items and hand-ins of the period, both days included', async () => {
    const claim = await check({ from: '2026-10-09', to: '2026-11-20' });
    expect(claim.verdict).toEqual({
      settled: true,
      says: '2 visits, about 2 min, 2 items, last on Fri 20 Nov 10:00; handed in Quiz.',
    });
    expect(claim.items.map((item) => item.item_id).sort()).toEqual(['D1', 'D2']);
    expect((await check({ from: '2026-11-21', to: '2026-11-24' })).verdict.says).toBe('No visit; nothing handed in.');
    expect((await check({ from: '2026-10-01', to: '2026-10-31', course: 'DRY' })).visits).toHaveLength(9);
  });

  it('cannot be settled while the log of one of their courses has a gap', async () => {
    await addFeedGap(runtime.db, 'files', Date.parse('2026-11-03T00:00:00Z'), Date.parse('2026-11-06T00:00:00Z'));
    const { verdict } = await check({ from: '2026-11-01', to: '2026-11-04' });
    expect(verdict).toMatchObject({ settled: false });
    expect(verdict.says).toContain('incomplete from Tue 3 Nov to Wed 4 Nov');
    expect((await check({ from: '2026-11-06', to: '2026-11-09' })).verdict.settled).toBe(true);
  });

  it('refuses a period that ends before it starts, 30 February, and a course that is not theirs', async () => {
    await expect(check({ from: '2026-11-02', to: '2026-11-01' })).rejects.toThrow('to lies before from');
    await expect(check({ from: '2026-02-30', to: '2026-03-01' })).rejects.toThrow('from is not a date');
    await expect(check({ from: '2026-11-01', to: '2026-11-02', course: 'NET' })).rejects.toThrow('none of theirs');
    await expect(check({})).rejects.toThrow('from is missing');
  });
});
