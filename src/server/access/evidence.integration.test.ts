import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { dayFromDate } from '@/core/time/zone';
import { checksOf, removeCheck, saveCheck, questionOf, runChecks, seeChecks, unseenChecks } from '../item-use/checks';
import { everythingOf } from './everything';
import { answerWhoDid } from '../item-use/who-did';
import { dailyOpens } from '../item-use/opens';
import { itemUseOf } from '../item-use/item-use';
import { findDraft } from '@/data/contact/drafts';
import { writeSetting } from '@/data/settings';
import { findLearner } from '@/data/people/learners';
import { SYSTEM_VIEWER } from '../system-viewer';
import { SMALL, bringIn, logOf, smallRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { openView, openDriftView } from '../request/view';
import { startDraft } from '../contact/write';

let runtime: TestRuntime;
const as = (email: string) => viewerByEmail(runtime, email);

beforeAll(async () => {
  runtime = await smallRuntime([
    '2026-11-10T08:30:00Z,L1,DRY,D1,opened',
    '2026-11-10T08:40:00Z,L1,DRY,D2,submitted',
    '2026-11-10T22:00:00Z,L1,NET,N1,posted',
    '2026-11-17T09:00:00Z,L1,DRY,D1,viewed',
    '2026-11-23T09:00:00Z,L2,DRY,D1,opened',
    '2026-11-24T08:00:00Z,L4,DRY,D1,opened',
    '2026-11-24T08:10:00Z,S3,DRY,D1,viewed',
    '2026-11-24T08:11:00Z,L4,DRY,,signed_in',
  ]);
});
afterAll(() => runtime.close());

describe('opens per day', () => {
  const opens = async (values: Record<string, string>, email?: string) => {
    const { series, days } = await dailyOpens(runtime, email ? await as(email) : SYSTEM_VIEWER, {
      course: 'DRY',
      ...values,
    });
    return {
      series,
      days: days.filter((one) => Object.values(one.opens).some(Boolean)).map(({ day, opens: o }) => [day, o]),
    };
  };
  const day = (date: string) => dayFromDate(date)!;

  it('are by kind, of learners alone', async () => {
    expect(await opens({})).toEqual({
      series: ['looked', 'worked', 'talked'],
      days: [
        [day('2026-11-10'), { looked: 1, worked: 1, talked: 0 }],
        [day('2026-11-17'), { looked: 1, worked: 0, talked: 0 }],
        [day('2026-11-23'), { looked: 1, worked: 0, talked: 0 }],
        [day('2026-11-24'), { looked: 1, worked: 0, talked: 0 }],
      ],
    });
  });

  it('are by role and by group, of one week or all of the course', async () => {
    expect((await opens({ by: 'role', weeks: '1' })).days).toEqual([
      [day('2026-11-23'), { learners: 1, staff: 0 }],
      [day('2026-11-24'), { learners: 1, staff: 1 }],
    ]);
    expect((await opens({ by: 'group', weeks: 'all' })).days.at(-2)).toEqual([day('2026-11-23'), { A: 0, B: 1 }]);
    const week = await dailyOpens(runtime, SYSTEM_VIEWER, { course: 'DRY', weeks: '1' });
    expect(week.days).toHaveLength(7);
    const all = await dailyOpens(runtime, SYSTEM_VIEWER, { course: 'DRY', weeks: 'all' });
    expect(all.days).toHaveLength(15);
  });

  it('keep to the viewer’s scope, and refuse what makes no sense', async () => {
    expect((await opens({ by: 'role' }, 'mentor@staff.example')).series).toEqual(['learners']);
    expect((await opens({}, 'norrick@partner.example')).days).toHaveLength(2);
    await expect(opens({ weeks: '3' })).rejects.toThrow('weeks is not one of');
    await expect(opens({ course: 'NIX' })).rejects.toThrow('No such course');
  });
});

describe('reach for the screen', () => {
  it('tells who came back and who was there a week ago', async () => {
    const { rows } = await itemUseOf(runtime, SYSTEM_VIEWER, { course: 'DRY' });
    expect(rows.find((row) => row.item_id === 'D1')).toMatchObject({
      base: 3,
      openers: 3,
      openers_week_ago: 1,
      returners: 1,
    });
    expect(rows.find((row) => row.item_id === 'D2')).toMatchObject({ openers: 1, openers_week_ago: 1, returners: 0 });
  });

  it('follows an item that is renamed and moved to another unit while people look at it', async () => {
    const moved = SMALL.outline.replace('Week 1,D1,Stone', 'Week 2,D1,Stones');
    await bringIn(runtime, 'outline', moved);
    const { rows } = await itemUseOf(runtime, SYSTEM_VIEWER, { course: 'DRY' });
    expect(rows.find((row) => row.item_id === 'D1')).toMatchObject({ item: 'Stones', unit: 'Week 2', openers: 3 });
    const answer = await answerWhoDid(runtime, SYSTEM_VIEWER, { course: 'DRY', unit: 'Week 2' });
    expect(answer.did).toHaveLength(3);
    await expect(answerWhoDid(runtime, SYSTEM_VIEWER, { course: 'NET', unit: 'Week 2' })).rejects.toThrow(
      'No such item',
    );
    await bringIn(runtime, 'outline', SMALL.outline);
  });
});

describe('has and has not, asked by a screen', () => {
  it('says the answer as a sentence, with those who did it earlier or later', async () => {
    const answer = await answerWhoDid(runtime, SYSTEM_VIEWER, {
      course: 'DRY',
      item: 'D1',
      from: '2026-11-16',
      to: '2026-11-20',
    });
    expect(answer.says).toBe('1 of 3 learners did something in Stone, Mon 16 Nov to Thu 19 Nov; 2 did not.');
    expect(answer.didNot.map(({ learner_id, before, after }) => [learner_id, before, after !== null])).toEqual([
      ['L2', null, true],
      ['L4', null, true],
    ]);
    const any = await answerWhoDid(runtime, SYSTEM_VIEWER, { course: 'DRY', item_kind: 'quiz', kind: 'worked' });
    expect(any.says).toBe('1 of 4 learners worked on any quiz, at any time; 3 did not.');
    await expect(
      answerWhoDid(runtime, SYSTEM_VIEWER, { course: 'DRY', item: 'D1', from: '2026-12-01' }),
    ).rejects.toThrow('from lies in the future');
  });

  it('begins a message with the item in its text', async () => {
    const lead = await as('lead@staff.example');
    const view = await openDriftView(runtime, lead);
    const id = (await findLearner(runtime.db, lead, 'L2'))!;
    const draft = await startDraft(runtime, view, [id], { subject: 'Quiz', body: 'Dear {{given_name}}, the quiz.' });
    expect(await findDraft(runtime.db, lead, draft)).toMatchObject({
      subject: 'Quiz',
      body: 'Dear {{given_name}}, the quiz.',
    });
    await expect(startDraft(runtime, view, [id], { subject: 'x'.repeat(201) })).rejects.toThrow('subject is longer');
  });
});

describe('saved checks', () => {
  const query = 'course=DRY&item=D1&period=week&as_of=2026-11-01&colour=red';

  it('take the question from an address', () => {
    expect(questionOf('in=group:DRY/A&kind=talked&page=2')).toEqual({ group: 'DRY/A', kind: 'talked' });
    expect(questionOf(query)).toEqual({ course: 'DRY', item: 'D1', period: 'week' });
  });

  it('are asked at once, then each day, and tell when a number is passed, once', async () => {
    const viewer = await as('instructor@staff.example');
    await saveCheck(runtime, viewer, { name: 'Stone this week', limit: '0', query });
    const [check] = await checksOf(runtime, viewer);
    // L1 was there last week, L2 and L4 this week.
    expect(check).toMatchObject({ last_count: 1, last_of: 3, fresh: true });
    expect(await unseenChecks(runtime, viewer)).toBe(1);
    expect(await unseenChecks(runtime, await as('mentor@staff.example'))).toBe(0);
    await seeChecks(runtime, viewer);
    expect(await unseenChecks(runtime, viewer)).toBe(0);
    expect(await runChecks(runtime)).toBe(0);
    runtime.setNow('2026-12-01T09:10:00Z');
    expect(await runChecks(runtime)).toBe(1);
    expect((await checksOf(runtime, viewer))[0]).toMatchObject({ last_count: 3, fresh: false });
    // Under its number again, and over it once more: that is news.
    await bringIn(
      runtime,
      'access-log',
      logOf(['L1', 'L2', 'L4'].map((who) => `2026-12-01T10:00:00Z,${who},DRY,D1,opened`.replace('10:00', '09:05'))),
    );
    runtime.setNow('2026-12-02T09:10:00Z');
    await runChecks(runtime);
    expect((await checksOf(runtime, viewer))[0]).toMatchObject({ last_count: 0, passed_at: null });
    runtime.setNow('2026-12-08T09:10:00Z');
    await runChecks(runtime);
    expect(await unseenChecks(runtime, viewer)).toBe(1);
    expect((await removeCheck(runtime, viewer, check.id)).name).toBe('Stone this week');
    await expect(removeCheck(runtime, viewer, check.id)).rejects.toThrow('No such check');
    runtime.setNow('2026-11-24T09:10:00Z');
  });

  it('refuse what cannot be answered, and say so when it no longer can', async () => {
    const viewer = await as('instructor@staff.example');
    const keep = (values: Record<string, string>) =>
      saveCheck(runtime, viewer, { name: 'A', limit: '1', query, ...values });
    await expect(keep({ limit: 'many' })).rejects.toThrow('limit is not a number of learners');
    await expect(keep({ name: '' })).rejects.toThrow('name is missing');
    await expect(keep({ query: 'course=DRY' })).rejects.toThrow('item is missing');
    await expect(keep({ query: 'course=NET&item=N1' })).rejects.toThrow('No such course');
    await keep({});
    await runtime.db('item').where('external_id', 'D1').update({ external_id: 'D1-gone' });
    await runtime.db('saved_check').update({ last_day: 0 });
    await runChecks(runtime);
    expect((await checksOf(runtime, viewer))[0]).toMatchObject({
      fault: 'No such item was found here.',
      last_count: null,
    });
    await runtime.db('item').where('external_id', 'D1-gone').update({ external_id: 'D1' });
    // Its name may hold a person's.
    expect((await checksOf(runtime, { ...viewer, standInKey: 'k' }))[0].name).toBe('Check 1 (text hidden)');
  });
});

describe('everything of one learner', () => {
  const everything = async (values: Record<string, string> = {}, viewer = SYSTEM_VIEWER) =>
    everythingOf(runtime, await openView(runtime, viewer), (await findLearner(runtime.db, viewer, 'L1'))!, values);

  it('is in order, by visit and week, with totals', async () => {
    const all = await everything({ to: '2026-11-24' });
    // The last week has only begun, and nothing was done in it.
    expect(all.weeks.map(({ visits, events, activeDays }) => [visits.length, events, activeDays])).toEqual([
      [2, 3, 1],
      [1, 1, 1],
      [0, 0, 0],
    ]);
    expect(all.weeks[0].visits[0].shown!.map((event) => event.item_id)).toEqual(['D1', 'D2']);
    expect(all).toMatchObject({ visits: 3, events: 4, ms: 13 * 60_000, next: null });
    // 12 of 13 minutes between 08:00 and 17:00.
    expect(all.working.share).toBeCloseTo(12 / 13, 10);
    expect(all.hours[1][22]).toBe(60_000);
  });

  it('is cut to a period and to the viewer’s scope', async () => {
    expect(await everything({ from: '2026-11-16', to: '2026-11-20' })).toMatchObject({ visits: 1, events: 1 });
    expect((await everything({ to: '2026-11-24' }, await as('instructor@staff.example'))).events).toBe(3);
    await expect(everything({ from: '2026-11-20', to: '2026-11-16' })).rejects.toThrow('to lies before from');
    await expect(everything({ from: '2026-02-30' })).rejects.toThrow('from is not a date');
  });

  it('goes by the learner’s own clock and the programme’s working hours', async () => {
    await runtime.db('learner').where('external_id', 'L1').update({ timezone: 'America/New_York' });
    await writeSetting(runtime.db, 'working_hours', 'mon-sun 17:00-18:00');
    const { working, hours } = await everything({ to: '2026-11-24' });
    expect(working.zone).toBe('America/New_York');
    expect(hours[1][17]).toBe(60_000);
    expect(working.share).toBeCloseTo(1 / 13, 10);
    await runtime.db('learner').where('external_id', 'L1').update({ timezone: null });
  });

  it('goes on from the day after a page that is full', async () => {
    const many = Array.from({ length: 40 }, (_, day) => day).flatMap((day) =>
      Array.from(
        { length: 100 },
        (_, n) =>
          `${new Date(Date.parse('2026-09-29T10:00:00Z') + day * 86_400_000 + n * 1000).toISOString()},L2,DRY,D1,viewed`,
      ),
    );
    await bringIn(runtime, 'access-log', logOf(many));
    const id = (await findLearner(runtime.db, SYSTEM_VIEWER, 'L2'))!;
    const first = await everythingOf(runtime, await openView(runtime, SYSTEM_VIEWER), id, {});
    expect(first.next).not.toBeNull();
    const shown = first.weeks.flatMap((week) => week.visits).filter((visit) => visit.shown !== null);
    expect(shown.reduce((sum, visit) => sum + visit.shown!.length, 0)).toBe(1500);
    expect(shown.every((visit) => visit.shown!.length === visit.events)).toBe(true);
    // Weeks are told of whole, also those of which little or nothing is on this page.
    expect(first.events).toBeGreaterThan(4000);
    expect(first.weeks.reduce((sum, week) => sum + week.events, 0)).toBe(first.events);
  });
});
