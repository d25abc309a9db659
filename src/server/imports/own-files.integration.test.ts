/** Files of our own kinds on the page for bringing in data: their columns seen, said and remembered. */
import { Readable } from 'node:stream';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { listShapes } from '@/data/imports/remembered-shapes';
import { pastRuns } from '@/data/imports/import-runs';
import { makeOwner } from '../owner';
import { SYSTEM_VIEWER } from '../system-viewer';
import { smallRuntime, viewerByEmail, type TestRuntime } from '../testing';
import {
  chooseColumn,
  chooseItem,
  chooseForFile,
  forgetShape,
  offerFile,
  offeredFiles,
  sayShape,
  takeOffered,
} from './offered';
import { workOnNext } from './queue';
import { receiveFile } from './receive';

let runtime: TestRuntime;
beforeEach(async () => {
  runtime = await smallRuntime();
});
afterEach(() => runtime.close());

const body = (text: string) => Readable.from([Buffer.from(text)]);
const offer = async (name: string, text: string) =>
  (await offerFile(runtime, SYSTEM_VIEWER, { file_name: name }, body(text)))[0];
const look = async () => (await offeredFiles(runtime, SYSTEM_VIEWER))[0];
const say = (id: number, values: Record<string, string>) => chooseForFile(runtime, SYSTEM_VIEWER, id, values);
const is = (id: number, column: number, role: string) => chooseColumn(runtime, SYSTEM_VIEWER, id, column, role);
async function take() {
  await takeOffered(runtime, SYSTEM_VIEWER);
  while ((await workOnNext(runtime, makeOwner())) === 'done');
  return (await pastRuns(runtime.db, SYSTEM_VIEWER, 1, 0)).rows[0];
}

/** Headings that nobody would guess. */
const STRANGE = 'A,B,C,D,E\nL9,Pilar,DRY,03/04/2026,x\nL8,Ulf,DRY,05/04/2026,\n';

describe('a file of one of our kinds', () => {
  it('by its own headings needs nothing said, and may be read otherwise all the same', async () => {
    const id = await offer('roster.csv', 'learner_id,given_name,course,group\nL9,Pilar,DRY,A\n');
    expect(await look()).toMatchObject({ kind: 'roster', missing: [], counts: { rows: 1, taken: 1 }, dates: 'iso' });
    await is(id, 3, 'nothing');
    expect((await look()).columns.map(({ role }) => role)).toEqual(['learner_id', 'given_name', 'course', 'nothing']);
    await is(id, 1, 'learner_id');
    expect(await look()).toMatchObject({
      missing: [{ field: 'columns', says: 'do not say given_name' }],
      counts: null,
    });
    await expect(takeOffered(runtime, SYSTEM_VIEWER)).rejects.toThrow('do not say given_name');
    await is(id, 1, 'given_name');
    expect(await take()).toMatchObject({ kind: 'roster', accepted: 1, rejected: 0 });
  });

  it('whose headings say nothing is read as somebody says, and so is the next one', async () => {
    const id = await offer('list.csv', STRANGE);
    expect((await look()).problem).toContain('Say what it is');
    await say(id, { kind: 'roster' });
    expect((await look()).missing.map(({ field }) => field)).toContain('columns');
    for (const [column, role] of ['learner_id', 'given_name', 'course', 'enrolled_on'].entries())
      await is(id, column, role);
    // A day that could be either way round is asked for.
    expect((await look()).missing.map(({ field }) => field)).toEqual(['dates']);
    await expect(takeOffered(runtime, SYSTEM_VIEWER)).rejects.toThrow('could be either way round');
    await say(id, { dates: 'day_first', source: 'registry' });
    expect(await look()).toMatchObject({
      ...{ source: 'registry', counts: { rows: 2, taken: 2 }, faults: [] },
      example: { cell: '03/04/2026', at: Date.parse('2026-04-02T23:00:00Z') },
    });
    expect(await take()).toMatchObject({ kind: 'roster', source: 'registry', accepted: 2 });
    const days = await runtime.db('enrolment').orderBy('id', 'desc').limit(2).pluck('enrolled_day');
    expect(days.map((day) => new Date(day * 86_400_000).toISOString().slice(0, 10))).toEqual([
      '2026-04-05',
      '2026-04-03',
    ]);
    // The same columns are known from now on, also where nobody looks.
    const [run] = await receiveFile(
      runtime,
      SYSTEM_VIEWER,
      { kind: 'auto', source: 'registry', only: 'known', file_name: 'next.csv' },
      body(STRANGE.replace('L9,Pilar', 'L7,Petra')),
    );
    expect(run).toBeGreaterThan(0);
    while ((await workOnNext(runtime, makeOwner())) === 'done');
    expect(await runtime.db('learner').where('external_id', 'L7').pluck('given_name')).toEqual(['Petra']);
    const [shape] = await listShapes(runtime.db);
    expect(sayShape(shape.spec)).toBe('roster · day first · 4 columns said by hand');
    const mentor = await viewerByEmail(runtime, 'mentor@staff.example');
    await expect(forgetShape(runtime, mentor, shape.source, shape.shape)).rejects.toThrow('Nothing was found');
    await forgetShape(runtime, SYSTEM_VIEWER, shape.source, shape.shape);
    expect(await listShapes(runtime.db)).toEqual([]);
    await expect(
      receiveFile(runtime, SYSTEM_VIEWER, { kind: 'auto', source: 'registry', only: 'known' }, body(STRANGE)),
    ).rejects.toThrow('nobody has settled yet');
  });

  it('that is said to be another kind than it is keeps nothing of what was said of its columns', async () => {
    const id = await offer('list.csv', STRANGE);
    await say(id, { kind: 'roster' });
    await is(id, 0, 'learner_id');
    await say(id, { kind: 'staff' });
    expect((await look()).choices.mapping).toBeUndefined();
    expect((await look()).ownColumns).toContain('scope_kind');
    await is(id, 0, 'no such column');
    expect((await look()).columns[0].role).toBe('nothing');
  });

  it('that is a calendar shows its sessions, and is of the course that is said', async () => {
    const calendar = [
      'BEGIN:VCALENDAR',
      'VERSION:2.0',
      'PRODID:-//test',
      'BEGIN:VEVENT',
      'UID:fair',
      'DTSTAMP:20261101T000000Z',
    ]
      .concat(['SUMMARY:Harbour fair', 'DTSTART:20261205T100000Z', 'DURATION:PT3H', 'RRULE:FREQ=WEEKLY;COUNT=7'])
      .concat(['END:VEVENT', 'END:VCALENDAR', ''])
      .join('\r\n');
    const id = await offer('fair.ics', calendar);
    expect(await look()).toMatchObject({ isCalendar: true, counts: { rows: 7, taken: 0, unreadable: 7 } });
    await expect(say(id, { part: 'NONE' })).rejects.toThrow('there is no course or group NONE');
    await say(id, { part: 'DRY/A' });
    expect(await look()).toMatchObject({ part: 'DRY/A', counts: { taken: 7, unreadable: 0 } });
    expect((await look()).notes).toContain('Sat 5 Dec, 10:00: Harbour fair, DRY/A');
    expect(await take()).toMatchObject({ kind: 'sessions', accepted: 7 });
  });
});

describe('items that are called otherwise', () => {
  it('are known without what all share or the name of their kind, else proposed, and said once', async () => {
    const outline =
      'course,item_id,item,kind,points\nDRY,k,Knots and hitches,quiz,20\nDRY,w,Walls,assignment,100\nDRY,g,Gaps,quiz,10\n';
    await receiveFile(runtime, SYSTEM_VIEWER, { kind: 'outline' }, body(outline));
    while ((await workOnNext(runtime, makeOwner())) === 'done');
    const grades = 'Name,Quiz: Gaps (score),Walls (score),Knots & hitches (score)\nInes Marrow,7,62,15\n';
    const id = await offer('grades.csv', grades);
    await say(id, { course: 'DRY' });
    expect((await look()).unknownItems).toMatchObject([
      { title: 'Knots & hitches (score)', likely: [{ id: 'k', title: 'Knots and hitches' }], said: null },
    ]);
    expect((await look()).faults.join()).toContain('there is no item Knots & hitches (score)');
    await chooseItem(runtime, SYSTEM_VIEWER, id, 'Knots & hitches (score)', 'k');
    expect(await look()).toMatchObject({ faults: [], unknownItems: [{ said: 'k' }] });
    expect(await take()).toMatchObject({ kind: 'gradebook', accepted: 1, rejected: 0 });
    const scores = await runtime
      .db('attempt')
      .join('item', 'item.id', 'attempt.item_id')
      .orderBy('external_id')
      .select('external_id', 'score', 'item.points');
    expect(scores).toEqual([
      { external_id: 'g', score: 7, points: 10 },
      { external_id: 'k', score: 15, points: 20 },
      { external_id: 'w', score: 62, points: 100 },
    ]);
    // Next week's is read as this one was.
    await offer('grades-2.csv', grades.replace(',15', ',16'));
    expect(await look()).toMatchObject({ faults: [], unknownItems: [{ said: 'k' }], counts: { taken: 1 } });
  });
});
