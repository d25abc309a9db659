/** Archiving a finished course, reading its log from the files, and letting go of what is kept no more. */
import { readdirSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { dayFromDate, dayOf } from '@/core/time/zone';
import type { Viewer } from '@/data/scope';
import { findFollowUps } from '@/data/contact/follow-ups';
import { checkClaim } from '../access/claim';
import { promise } from '../contact/follow-ups';
import { whoDid } from '../item-use/who-did';
import { openDriftView } from '../request/view';
import { countOpenLog, openLog, readLog } from '../access/access-log';
import { exportLog } from '../access/log-export';
import { ACCESS_LOG } from '../access/log-list';
import { checkAll } from '../check';
import { recalculate } from '../drift/recalculate';
import { settleProvisional } from '../imports/provisional';
import { mergeLearners } from '../people/merging';
import { askErasure, eraseDue } from '../privacy/erasing';
import { personRecord } from '../privacy/record';
import { InvalidInput, NotFound } from '../request/input';
import { askList, bringIn, logOf, SMALL, smallRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { archiveNext, archivesAnswer, askArchive, coursesToArchive, takeBackArchive } from './archive';
import { archiveFolder } from './files';
import { openEvents } from './parquet';

let runtime: TestRuntime;
let lead: Viewer;

const LINES = [
  ...Array.from(
    { length: 60 },
    (_, n) =>
      `2026-10-${String(1 + (n % 28)).padStart(2, '0')}T10:${String(n % 60).padStart(2, '0')}:00Z,L1,DRY,D1,opened`,
  ),
  ...Array.from(
    { length: 30 },
    (_, n) =>
      `2026-11-${String(1 + (n % 20)).padStart(2, '0')}T11:${String(n % 60).padStart(2, '0')}:00Z,L2,DRY,D2,submitted`,
  ),
  ...Array.from({ length: 10 }, (_, n) => `2026-11-${String(2 + n).padStart(2, '0')}T09:30:00Z,L1,NET,N1,opened`),
];

/** The whole log, page by page from the newest, as its programs get it. */
async function wholeLog(viewer: Viewer, values: Record<string, string> = {}) {
  const rows: Record<string, unknown>[] = [];
  for (let cursor: string | undefined; ;) {
    const page = await askList(ACCESS_LOG, runtime, viewer, { ...values, limit: '7', ...(cursor && { cursor }) });
    rows.push(...page.rows);
    if (page.next === null) return { rows, total: page.total };
    cursor = page.next;
  }
}

const days = async (viewer: Viewer, values: Record<string, string> = {}) =>
  countOpenLog(runtime, await openLog(runtime, viewer, values));

beforeEach(async () => {
  runtime = await smallRuntime();
  lead = await viewerByEmail(runtime, 'lead@staff.example');
  // One of the two courses has ended.
  await bringIn(
    runtime,
    'outline',
    SMALL.outline.replaceAll('Walling,2026-09-28,2026-12-21', 'Walling,2026-09-28,2026-11-22'),
  );
  await bringIn(runtime, 'access-log', logOf(LINES));
  await recalculate(runtime);
});
afterEach(() => runtime.close());

async function archived(code = 'DRY') {
  await askArchive(runtime, lead, { course: code });
  expect(await archiveNext(runtime)).toBe(1);
}

describe('an archive', () => {
  it('takes the events out of the database, and the log reads as before: pages both ways, filters, counts and files', async () => {
    const mentor = await viewerByEmail(runtime, 'mentor@staff.example');
    const asked: [Viewer, Record<string, string>][] = [
      [lead, {}],
      [lead, { course: 'DRY' }],
      [lead, { learner: 'L1' }],
      [lead, { item: 'D2', course: 'DRY' }],
      [lead, { action: 'opened' }],
      [lead, { from: '2026-10-10T10:30:00Z', to: '2026-11-05T11:00:00Z' }],
      [lead, { organisation: 'Norrick' }],
      [mentor, {}],
    ];
    const read = async () =>
      Promise.all(asked.map(async ([viewer, values]) => [await wholeLog(viewer, values), await days(viewer, values)]));
    const before = await read();
    await archived();
    expect(await runtime.db('event').count({ n: '*' })).toEqual([{ n: 10 }]);
    expect(await read()).toEqual(before);
    const open = await openLog(runtime, lead, {});
    const page = await readLog(runtime, open, { limit: 5 });
    const older = await readLog(runtime, open, { limit: 5, cursor: page.older! });
    const back = await readLog(runtime, open, { limit: 5, cursor: older.newer!, newer: true });
    expect(back.rows).toEqual(page.rows);
    expect(back.isArchived).toBe(true);
    const chunks: Buffer[] = [];
    for await (const part of (await exportLog(runtime, open, 'csv')).body) chunks.push(Buffer.from(part));
    expect(Buffer.concat(chunks).toString().trim().split('\n')).toHaveLength(101);
    expect((await checkAll(runtime)).problems).toEqual([]);
  });

  it('has a file for each month, in an open format, with nothing lost', async () => {
    const before = await runtime.db('event').where('course_id', 1).orderBy(['at', 'id']);
    await archived();
    const names = readdirSync(archiveFolder(runtime)).sort();
    expect(names.map((name) => name.replace(/-[0-9a-f]{8}\./, '.'))).toEqual([
      'dry-2026-10.parquet',
      'dry-2026-11.parquet',
    ]);
    const events = [];
    for (const name of names) {
      const reader = await openEvents(join(archiveFolder(runtime), name));
      for (const group of reader.groups) events.push(...(await reader.read(group)));
    }
    expect(events).toEqual(
      before.map((row) => ({
        id: row.id,
        at: row.at,
        learner: row.learner_id,
        staff: null,
        item: row.item_id,
        action: row.action_id,
        address: null,
        source: row.source_id,
        external_id: null,
        statement: null,
      })),
    );
    expect(await archivesAnswer(runtime, lead)).toMatchObject([
      { course: 'DRY', state: 'done', events: 90, files: 2, by: 'Hesper Vane', error: null },
    ]);
  });

  it('keeps the figures, also when somebody’s other course brings events of the same days', async () => {
    const figures = async () => ({
      days: await runtime.db('learner_day').where('course_id', 1).orderBy(['learner_id', 'day']),
      items: await runtime.db('item_day').whereIn('item_id', runtime.db('item').where('course_id', 1).select('id')),
      visits: await runtime.db('visit_course').where('course_id', 1),
      packed: await runtime.db('packed_day').where('course_id', 1).select('day', 'entries'),
      course: await runtime.db('learner_course').where('course_id', 1),
    });
    const before = await figures();
    await archived();
    await bringIn(
      runtime,
      'access-log',
      logOf(['2026-11-02T09:31:00Z,L1,NET,N1,opened', '2026-10-05T10:00:00Z,L1,NET,N1,opened']),
    );
    await recalculate(runtime);
    expect(await figures()).toEqual(before);
    expect(
      await runtime.db('learner_day').where('course_id', '<>', 1).where('day', dayFromDate('2026-10-05')!),
    ).toHaveLength(1);
    expect((await checkAll(runtime)).problems).toEqual([]);
  });

  it('changes no answer: who did what, a claim, whether somebody came back', async () => {
    const id = (await runtime.db('learner').where('external_id', 'L2').first('id'))!.id;
    const view = await openDriftView(runtime, lead);
    runtime.setNow('2026-11-03T09:00:00Z');
    await promise(runtime, await openDriftView(runtime, lead), [id], { due: '2026-11-10', reason: 'quiet' });
    runtime.setNow('2026-11-24T09:10:00Z');
    // Of two hand-ins of one item on one day, the first is kept.
    const claimed = async () => {
      const { visits, items, handIns } = await checkClaim(runtime, view, id, { from: '2026-11-02', to: '2026-11-08' });
      return {
        visits,
        items,
        handIns: [...new Set(handIns.map(({ at, item }) => `${item} on ${dayOf(at, runtime.zone)}`))],
      };
    };
    const answers = async () => ({
      byAction: (await whoDid(runtime, lead, { course: 'DRY', action: 'submitted' })).did,
      inPart: (await whoDid(runtime, lead, { item: 'D1', from: '2026-10-03T10:01:00Z', to: '2026-11-05T10:03:00Z' }))
        .did,
      claim: await claimed(),
      back: (await findFollowUps(runtime.db, view, { state: 'open', limit: 10 })).map(
        (row) => row.first_after !== null,
      ),
    });
    const before = await answers();
    expect(before.byAction.map(({ learner_id, count }) => [learner_id, count])).toEqual([['L2', 30]]);
    expect(before.claim.handIns).not.toEqual([]);
    expect(before.back).toEqual([true]);
    await archived();
    expect(await answers()).toEqual(before);
  });

  it('takes no more events of its course, from whichever file, and says so', async () => {
    await archived();
    const run = await bringIn(runtime, 'access-log', logOf(['2026-11-20T10:00:00Z,L1,DRY,D1,opened', LINES[0]]));
    expect(run).toMatchObject({ accepted: 0, rejected: 2 });
    await bringIn(
      runtime,
      'participants',
      'learner_id,course,last_access,made_at\nL1,DRY,2026-11-21T10:00:00Z,2026-11-22T10:00:00Z\n',
    );
    expect(await runtime.db('event').where('course_id', 1)).toEqual([]);
  });

  it('is opened by the course being held again: later days are as any, and are archived when it has ended again', async () => {
    const of = () => runtime.db('learner_day').where('course_id', 1).orderBy(['learner_id', 'day']);
    const before = { days: await of(), log: await wholeLog(lead, { course: 'DRY' }) };
    await archived();
    await bringIn(runtime, 'outline', SMALL.outline.replaceAll('2026-12-21', '2027-05-30'));
    runtime.setNow('2026-12-02T09:10:00Z');
    const again = ['2026-12-01T10:00:00Z,L1,DRY,D1,opened', '2026-12-01T10:05:00Z,L1,DRY,D2,submitted'];
    const run = await bringIn(runtime, 'access-log', logOf([...again, '2026-11-20T10:00:00Z,L1,DRY,D1,opened']));
    expect(run).toMatchObject({ accepted: 2, rejected: 1 });
    await recalculate(runtime);
    const days = await of();
    expect(days).toHaveLength(before.days.length + 1);
    expect(days).toEqual(expect.arrayContaining(before.days));
    expect((await wholeLog(lead, { course: 'DRY' })).total).toBe(before.log.total + 2);
    expect((await checkAll(runtime)).problems).toEqual([]);
    await expect(askArchive(runtime, lead, { course: 'DRY' })).rejects.toThrow(/has not ended/);
    runtime.setNow('2027-06-02T09:10:00Z');
    await askArchive(runtime, lead, { course: 'DRY' });
    // What was archived before stays, whether or not this is taken back.
    await takeBackArchive(runtime, lead, 'DRY');
    expect((await wholeLog(lead, { course: 'DRY' })).total).toBe(before.log.total + 2);
    await archived();
    expect(await runtime.db('event').where('course_id', 1)).toEqual([]);
    const { rows, total } = await wholeLog(lead, { course: 'DRY' });
    expect([rows.length, total]).toEqual([before.log.total + 2, before.log.total + 2]);
    expect(rows.slice(2)).toEqual(before.log.rows);
    await expect(askArchive(runtime, lead, { course: 'DRY' })).rejects.toThrow(/has no events/);
  });

  it('is of a course that has ended, once, and for leads', async () => {
    const mentor = await viewerByEmail(runtime, 'mentor@staff.example');
    await expect(askArchive(runtime, mentor, { course: 'DRY' })).rejects.toThrow(NotFound);
    await expect(askArchive(runtime, lead, { course: 'NOWHERE' })).rejects.toThrow(InvalidInput);
    await expect(askArchive(runtime, lead, { course: 'NET' })).rejects.toThrow(/has not ended/);
    await expect(askArchive(runtime, lead, {})).rejects.toThrow(/missing/);
    expect(await coursesToArchive(runtime, lead)).toMatchObject([{ code: 'DRY' }]);
    await askArchive(runtime, lead, { course: 'DRY' });
    await takeBackArchive(runtime, lead, 'DRY');
    await askArchive(runtime, lead, { course: 'DRY' });
    await askArchive(runtime, lead, { course: 'DRY' });
    expect(await archiveNext(runtime)).toBe(1);
    await expect(takeBackArchive(runtime, lead, 'DRY')).rejects.toThrow(NotFound);
    expect(await coursesToArchive(runtime, lead)).toEqual([]);
  });

  it('goes on where it was, killed after its files were written or while events go; what nobody knows of is tidied away', async () => {
    const before = await wholeLog(lead);
    const events = await runtime.db('event').where('course_id', 1).orderBy('id');
    const half = join(archiveFolder(runtime), 'dry-2026-10-deadbeef.parquet.part');
    writeFileSync(half, 'half');
    utimesSync(half, new Date('2026-01-01'), new Date('2026-01-01'));
    await archived();
    // As if it had ended after a part of the events.
    await runtime.db('archive').update({ state: 'emptying', done_at: null });
    await runtime.db.batchInsert('event', events.slice(40), 20);
    expect((await wholeLog(lead)).rows).toEqual(before.rows);
    expect(await archiveNext(runtime)).toBe(1);
    expect(await wholeLog(lead)).toEqual(before);
    expect(readdirSync(archiveFolder(runtime))).toHaveLength(2);
  });

  it('that is lost or damaged is told of, and everything else is shown', async () => {
    await archived();
    const folder = archiveFolder(runtime);
    const [october, november] = readdirSync(folder).sort();
    writeFileSync(join(folder, october), 'no longer what it was');
    rmSync(join(folder, november));
    const page = await readLog(runtime, await openLog(runtime, lead, {}), { limit: 50 });
    expect(page.rows).toHaveLength(10);
    expect(page.broken.sort()).toEqual(['DRY, 2026-10', 'DRY, 2026-11']);
    expect((await checkAll(runtime)).problems).toEqual([
      expect.stringContaining('archive of DRY, 2026-10: damaged'),
      expect.stringContaining('archive of DRY, 2026-11: lost'),
    ]);
  });

  it('shows the events of a record that was merged since as those of the one that was kept', async () => {
    await archived();
    const id = async (learner: string) => (await runtime.db('learner').where('external_id', learner).first('id'))!.id;
    await mergeLearners(runtime, lead, await id('L1'), await id('L2'));
    const { rows } = await wholeLog(lead, { learner: 'L1', course: 'DRY' });
    expect(rows).toHaveLength(90);
    expect(new Set(rows.map((row) => row.learner_id))).toEqual(new Set(['L1']));
  });

  it('is written anew without whoever is erased, and holds everybody else as before', async () => {
    const lines = ['L1', 'L2'].map(
      (who, n) => `2026-11-03T08:0${n}:00Z,${who},DRY,D1,opened,203.0.113.${n + 1},ev-${who}`,
    );
    await bringIn(
      runtime,
      'access-log',
      ['time,learner_id,course,item_id,action,address,event_id', ...lines, ''].join('\n'),
    );
    await archived();
    const read = async () => {
      const events = [];
      for (const name of readdirSync(archiveFolder(runtime)).sort()) {
        const reader = await openEvents(join(archiveFolder(runtime), name));
        for (const group of reader.groups) events.push(...(await reader.read(group)));
      }
      return events;
    };
    const before = await read();
    const names = readdirSync(archiveFolder(runtime)).sort();
    const { kinds } = await personRecord(runtime, lead, 'L1');
    const { rows: held } = kinds.find(({ kind }) => kind === 'event')!;
    expect(held).toHaveLength(71);
    expect(held).toContainEqual({
      at: '2026-11-03T08:00:00Z',
      course: 'DRY',
      item: 'D1',
      action: 'opened',
      address: '203.0.113.1',
      source: expect.any(String),
      external_id: 'ev-L1',
      statement: null,
    });
    await askErasure(runtime, lead, 'L1', { reason: 'They asked' });
    runtime.setNow('2026-12-10T09:10:00Z');
    expect(await eraseDue(runtime)).toBe(1);
    const { id: learner } = (await runtime.db('learner').where('family_name', 'somebody erased').first('id'))!;
    expect(await read()).toEqual(
      before.map((event) => (event.learner === learner ? { ...event, address: null, external_id: null } : event)),
    );
    // October held nothing of theirs but when: it stays as it is.
    const after = readdirSync(archiveFolder(runtime)).sort();
    expect(after.filter((name) => names.includes(name))).toEqual([names[0]]);
    expect((await checkAll(runtime)).problems).toEqual([]);
    const { rows } = await wholeLog(lead, { course: 'DRY', from: '2026-11-03T08:00:00Z', to: '2026-11-03T09:00:00Z' });
    expect(rows.map(({ name, address }) => [name, address])).toEqual([
      ['Tobias Quill', '203.0.113.2'],
      ['somebody erased', null],
    ]);
  });

  it('is made once by two processes that begin together', async () => {
    const before = await wholeLog(lead);
    await askArchive(runtime, lead, { course: 'DRY' });
    const done = await Promise.all([archiveNext(runtime), archiveNext(runtime)]);
    expect(Math.max(...done)).toBe(1);
    expect(await wholeLog(lead)).toEqual(before);
    expect(readdirSync(archiveFolder(runtime))).toHaveLength(2);
    expect((await checkAll(runtime)).problems).toEqual([]);
  });

  it('waits while a file is being taken', async () => {
    await askArchive(runtime, lead, { course: 'DRY' });
    await runtime.db('import_run').where('id', 1).update({ state: 'running' });
    expect(await archiveNext(runtime)).toBe(0);
    expect(await runtime.db('event').count({ n: '*' })).toEqual([{ n: 100 }]);
  });

  it('tells events of an archive from newer ones that have their numbers', async () => {
    await runtime.db('event').whereIn('course_id', runtime.db('course').where('code', 'NET').select('id')).delete();
    await askArchive(runtime, lead, { course: 'DRY' });
    await archiveNext(runtime);
    expect((await wholeLog(lead)).rows).toHaveLength(90);
    await bringIn(
      runtime,
      'access-log',
      logOf(['2026-11-23T09:00:00Z,L3,NET,N1,opened', '2026-11-23T10:00:00Z,L3,NET,N1,opened']),
    );
    expect(await runtime.db('event').min({ id: 'id' }).first()).toEqual({ id: 1 });
    const { rows } = await wholeLog(lead);
    expect(rows).toHaveLength(92);
    expect((await askList(ACCESS_LOG, runtime, lead, { limit: '100' })).rows).toHaveLength(92);
  });

  it('is joined with no other course: what that has would come into closed days', async () => {
    await askArchive(runtime, lead, { course: 'DRY' });
    await archiveNext(runtime);
    await runtime.db('course').where('code', 'NET').update({ provisional: 1 });
    const { id } = (await runtime.db('course').where('code', 'NET').first('id'))!;
    await expect(settleProvisional(runtime, lead, 'course', id, { do: 'join', with: 'DRY' })).rejects.toThrow(
      'has days whose events have left the log',
    );
  });
});
