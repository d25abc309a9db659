/** How long is kept: set, shown before it holds, taken back, and what goes when the days are over. */
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { DEFAULT_KEPT } from '@/core/privacy/retention';
import { DAY, dayFromDate } from '@/core/time/zone';
import { rawTransaction } from '@/data/db';
import type { Viewer } from '@/data/scope';
import { askArchive, archiveNext } from '../archive/archive';
import { checkAll } from '../check';
import { logCall, saveNote } from '../contact/contact';
import { startDraft, sendDraft } from '../contact/write';
import { recalculate } from '../drift/recalculate';
import { InvalidInput, NotFound } from '../request/input';
import { openDriftView } from '../request/view';
import { SMALL, bringIn, logOf, smallRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { addLooks } from '@/data/privacy/looks';
import { changeStaff, enterStaff, giveScope } from '../staff/staff-accounts';
import { letGo, retentionAnswer, setRetention, takeBackRetention } from './retention';

let runtime: TestRuntime;
let lead: Viewer;
let [first, second] = [0, 0];

const count = async (table: 'event' | 'visit_course' | 'drift_reading' | 'look', where = {}) =>
  Number((await runtime.db(table).where(where).count({ n: '*' }))[0].n);

beforeEach(async () => {
  runtime = await smallRuntime();
  lead = await viewerByEmail(runtime, 'lead@staff.example');
  // DRY ended on 22 November; NET goes on.
  const outline = SMALL.outline.replaceAll('Walling,2026-09-28,2026-12-21', 'Walling,2026-09-28,2026-11-22');
  await bringIn(runtime, 'outline', outline);
  const lines = ['L1,DRY,D1', 'L2,DRY,D2', 'L1,NET,N1'].flatMap((who, n) =>
    Array.from({ length: 20 }, (_, day) => `2026-11-${String(1 + day).padStart(2, '0')}T1${n}:00:00Z,${who},opened`),
  );
  await bringIn(runtime, 'access-log', logOf(lines));
  await recalculate(runtime);
  [first, second] = await Promise.all(
    ['L1', 'L2'].map(async (id) => (await runtime.db('learner').where('external_id', id).first('id'))!.id),
  );
  const view = await openDriftView(runtime, lead);
  for (const learner of [first, second]) {
    await saveNote(runtime, lead, learner, { body: 'Spoke of walls' });
    await logCall(runtime, view, learner, { outcome: 'spoke', remark: 'about stones' });
    const draft = await startDraft(runtime, view, [learner]);
    await sendDraft(runtime, view, draft, { subject: 'Hello', body: 'How are the walls?' }, [String(learner)]);
  }
  const look = { staff_id: 1, what: 'page', subject: '' };
  await addLooks(runtime.db, [
    { ...look, at: Date.parse('2026-11-23T10:00:00Z'), learner_id: first },
    { ...look, at: Date.parse('2026-11-23T10:00:00Z'), learner_id: second },
  ]);
});
afterEach(() => runtime.close());

describe('how long is kept', () => {
  it('is proposed and holds for nobody until a lead has set it', async () => {
    runtime.setNow('2036-11-24T09:10:00Z');
    expect(await letGo(runtime)).toBe(0);
    expect(await retentionAnswer(runtime, lead)).toMatchObject({ days: DEFAULT_KEPT, in_force: false, next: null });
    const mentor = await viewerByEmail(runtime, 'mentor@staff.example');
    await expect(retentionAnswer(runtime, mentor)).rejects.toThrow(NotFound);
    await expect(setRetention(runtime, mentor, { events: 1 })).rejects.toThrow(NotFound);
  });

  it('shows what would go and when before it is set', async () => {
    const { data } = await retentionAnswer(runtime, lead, {
      events: '1',
      visits: '10',
      readings: 'for ever',
      messages: '3',
    });
    expect(data).toEqual([
      {
        kind: 'events',
        course: 'DRY',
        title: 'Drystone Walling',
        learners: null,
        on: '2026-11-24',
        due: true,
        rows: 40,
      },
      // L1 is in a course that goes on: theirs stay.
      { kind: 'messages', course: null, title: null, learners: 3, on: '2026-11-26', due: false, rows: 1 },
      {
        kind: 'visits',
        course: 'DRY',
        title: 'Drystone Walling',
        learners: null,
        on: '2026-12-03',
        due: false,
        rows: 40,
      },
      { kind: 'events', course: 'NET', title: 'Net Work', learners: null, on: '2026-12-23', due: false, rows: 20 },
      { kind: 'messages', course: null, title: null, learners: 2, on: '2026-12-25', due: false, rows: 1 },
      { kind: 'visits', course: 'NET', title: 'Net Work', learners: null, on: '2027-01-01', due: false, rows: 20 },
      { kind: 'notes', course: null, title: null, learners: 3, on: '2027-11-23', due: false, rows: 2 },
      { kind: 'notes', course: null, title: null, learners: 2, on: '2027-12-22', due: false, rows: 2 },
    ]);
    expect(await count('event')).toBe(60);
  });

  it('names the field of what is no number of days', async () => {
    for (const wrong of [0, -1, 1.5, 36_501, 'soon', '1e3', [], {}, true, '1'.repeat(100_000)])
      await expect(setRetention(runtime, lead, { notes: wrong })).rejects.toThrow(InvalidInput);
    for (const nothing of [{}, { nothing: 3 }, { 0: 5 }])
      await expect(setRetention(runtime, lead, nothing)).rejects.toThrow(InvalidInput);
    expect((await retentionAnswer(runtime, lead)).next).toBeNull();
    await setRetention(runtime, lead, { notes: null, looks: 'for ever', events: '36500' });
    expect((await retentionAnswer(runtime, lead)).next?.days).toEqual({
      ...DEFAULT_KEPT,
      notes: null,
      looks: null,
      events: 36_500,
    });
  });

  it('holds a day after it was set, and can be taken back until then', async () => {
    await setRetention(runtime, lead, { events: 1, visits: 1, readings: 1 });
    expect(await letGo(runtime)).toBe(0);
    expect((await retentionAnswer(runtime, lead)).next).toMatchObject({ from: '2026-11-25T09:10:00.000Z' });
    await takeBackRetention(runtime, lead);
    runtime.setNow('2026-11-26T09:10:00Z');
    expect(await letGo(runtime)).toBe(0);
    expect(await count('event')).toBe(60);
    await expect(takeBackRetention(runtime, lead)).rejects.toThrow(NotFound);
    // Set twice, the first holds; set to what holds already, nothing waits.
    await setRetention(runtime, lead, { events: 1 });
    runtime.setNow('2026-11-26T21:10:00Z');
    await setRetention(runtime, lead, { events: 1 });
    expect((await retentionAnswer(runtime, lead)).next).toMatchObject({ from: '2026-11-27T09:10:00.000Z' });
    runtime.setNow('2026-11-27T09:10:00Z');
    await setRetention(runtime, lead, { events: 300 });
    await setRetention(runtime, lead, { events: 1 });
    expect(await retentionAnswer(runtime, lead)).toMatchObject({ in_force: true, next: null, days: { events: 1 } });
  });

  it('is taken back by another lead, and by nobody whose right was taken meanwhile; what was asked for goes on', async () => {
    const id = await enterStaff(runtime, lead, {
      given_name: 'Petra',
      family_name: 'Sandoval',
      email: 'petra@staff.example',
      role: 'lead',
    });
    await giveScope(runtime, lead, id, { kind: 'all' });
    const petra = await viewerByEmail(runtime, 'petra@staff.example');
    await setRetention(runtime, petra, { events: 1 });
    await takeBackRetention(runtime, lead);
    await setRetention(runtime, petra, { events: 1 });
    await askArchive(runtime, petra, { course: 'DRY' });
    await changeStaff(runtime, lead, id, { given_name: 'Petra', email: 'petra@staff.example', role: 'mentor' });
    const now = await viewerByEmail(runtime, 'petra@staff.example');
    await expect(takeBackRetention(runtime, now)).rejects.toThrow(NotFound);
    await expect(setRetention(runtime, now, { events: 1 })).rejects.toThrow(NotFound);
    await expect(askArchive(runtime, now, { course: 'NET' })).rejects.toThrow(NotFound);
    expect(await archiveNext(runtime)).toBe(1);
    expect((await retentionAnswer(runtime, lead)).next).toMatchObject({ from: '2026-11-25T09:10:00.000Z' });
    await takeBackRetention(runtime, lead);
  });

  it('lets events, visits and readings of a course go and keeps its figures, which nothing makes anew', async () => {
    const figures = async () => ({
      days: await runtime.db('learner_day').orderBy(['learner_id', 'course_id', 'day']),
      items: await runtime.db('item_day').orderBy(['learner_id', 'item_id', 'day']),
      courses: await runtime.db('learner_course').orderBy(['learner_id', 'course_id']),
      packed: await runtime.db('packed_day').where('course_id', 1).select('day', 'entries'),
    });
    const before = await figures();
    await setRetention(runtime, lead, { events: 1, visits: 1, readings: 1 });
    runtime.setNow('2026-11-26T09:10:00Z');
    expect(await letGo(runtime)).toBeGreaterThan(80);
    expect(await letGo(runtime)).toBe(0);
    expect([await count('event'), await count('visit_course'), await count('visit_course', { course_id: 1 })]).toEqual([
      20, 20, 0,
    ]);
    expect(await figures()).toEqual(before);
    await recalculate(runtime);
    // Something of L1 in another course, on a day of both, and late rows of the course itself.
    await bringIn(
      runtime,
      'access-log',
      logOf(['2026-11-05T12:30:00Z,L1,NET,N1,opened', '2026-11-05T10:00:00Z,L1,DRY,D1,opened']),
    );
    await recalculate(runtime);
    expect(await figures()).toMatchObject({
      items: before.items.map((row) => (row.item_id === 3 ? {} : row)),
      packed: before.packed,
    });
    expect([await count('event', { course_id: 1 }), await count('visit_course', { course_id: 1 })]).toEqual([0, 0]);
    const readings = await runtime
      .db('drift_reading')
      .join('enrolment', 'enrolment.id', 'enrolment_id')
      .where('course_id', 1);
    expect(readings).toEqual([]);
    expect((await checkAll(runtime)).problems).toEqual([]);
    const audit = await runtime
      .db('audit')
      .where('what', 'like', 'let go of%')
      .orderBy('what')
      .select('what', 'subject', 'changes');
    expect(audit.map(({ what, subject }) => `${what} ${subject}`)).toEqual([
      'let go of events DRY',
      'let go of readings DRY',
      'let go of visits DRY',
    ]);
    expect(JSON.parse(audit[0].changes)).toEqual({ rows: ['40', '0'] });
  });

  it('empties messages and notes of whoever has no course left, and keeps that there were any', async () => {
    await setRetention(runtime, lead, { messages: 1, notes: 1, looks: 1 });
    runtime.setNow('2026-11-26T09:10:00Z');
    await letGo(runtime);
    const of = async (learner: number) => ({
      message: await runtime.db('message').where('learner_id', learner).select('subject', 'body', 'address', 'channel'),
      note: await runtime.db('note').where('learner_id', learner).select('body'),
      call: await runtime.db('call').where('learner_id', learner).select('outcome', 'remark'),
    });
    expect(await of(second)).toEqual({
      message: [{ subject: '', body: '', address: '', channel: 'email' }],
      note: [{ body: '' }],
      call: [{ outcome: 'spoke', remark: '' }],
    });
    expect(await of(first)).toMatchObject({ note: [{ body: 'Spoke of walls' }], call: [{ remark: 'about stones' }] });
    expect([await count('look', { learner_id: first }), await count('look', { learner_id: second })]).toEqual([1, 0]);
    expect(await letGo(runtime)).toBe(0);
  });

  it('lets no look go before its days are over, whoever asks the table', async () => {
    const drop = () => rawTransaction(runtime.db, (raw) => raw.prepare('DELETE FROM look').run());
    await expect(drop()).rejects.toThrow('a look stays');
    await setRetention(runtime, lead, { looks: 1 });
    runtime.setNow('2026-11-26T09:10:00Z');
    await letGo(runtime);
    await addLooks(runtime.db, [
      { at: Date.parse('2026-11-25T10:00:00Z'), staff_id: 1, learner_id: second, what: 'page', subject: '' },
    ]);
    await expect(drop()).rejects.toThrow('a look stays');
  });

  it('lets go again of a course that was held again, and of nothing of it before that is over', async () => {
    await setRetention(runtime, lead, { events: 1, visits: 1, readings: 1 });
    runtime.setNow('2026-11-26T09:10:00Z');
    await letGo(runtime);
    await bringIn(runtime, 'outline', SMALL.outline.replaceAll('2026-12-21', '2027-05-30'));
    runtime.setNow('2026-12-02T09:10:00Z');
    await bringIn(runtime, 'access-log', logOf(['2026-12-01T10:00:00Z,L1,DRY,D1,opened']));
    await recalculate(runtime);
    expect(await letGo(runtime)).toBe(0);
    const kept = () => Promise.all([count('event', { course_id: 1 }), count('visit_course', { course_id: 1 })]);
    expect(await kept()).toEqual([1, 1]);
    const readings = () =>
      runtime
        .db('drift_reading')
        .join('enrolment', 'enrolment.id', 'enrolment_id')
        .where('course_id', 1)
        .min('day as day');
    expect((await readings())[0].day).toBe(dayFromDate('2026-11-27'));
    expect((await checkAll(runtime)).problems).toEqual([]);
    runtime.setNow('2027-06-10T09:10:00Z');
    expect((await retentionAnswer(runtime, lead)).data.map(({ kind, course }) => `${kind} ${course}`)).toContain(
      'events DRY',
    );
    await letGo(runtime);
    expect(await kept()).toEqual([0, 0]);
  });

  it('lets a course go that is a small part of the log', async () => {
    await runtime.db('course_day').where('course_id', 1).update({ events: 0 });
    await setRetention(runtime, lead, { events: 1 });
    runtime.setNow('2026-11-26T09:10:00Z');
    expect(await letGo(runtime)).toBe(40);
    expect(await count('event', { course_id: 1 })).toBe(0);
  });

  it('takes an archive away when the days of its events are over', async () => {
    await askArchive(runtime, lead, { course: 'DRY' });
    await archiveNext(runtime);
    await setRetention(runtime, lead, { events: 30 });
    runtime.setNow('2026-11-26T09:10:00Z');
    expect(await letGo(runtime)).toBe(0);
    runtime.setNow(new Date(Date.parse('2026-11-22T12:00:00Z') + 31 * DAY).toISOString());
    expect(await letGo(runtime)).toBe(40);
    expect(await runtime.db('archive_file')).toEqual([]);
    expect((await checkAll(runtime)).problems.filter((one) => !one.startsWith('drift'))).toEqual([]);
  });
});
