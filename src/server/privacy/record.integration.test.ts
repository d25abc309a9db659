import { buffer } from 'node:stream/consumers';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { TREATMENT } from '@/data/privacy/erase';
import { RECORD_KINDS } from '@/data/privacy/record';
import type { Viewer } from '@/data/scope';
import { withRaw } from '@/data/db';
import { saveNote } from '../contact/contact';
import { mergeLearners } from '../people/merging';
import { InvalidInput, NotFound } from '../request/input';
import { askList, bringIn, smallRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { LOOKS, noteAnswer, noteLook } from './looks';
import { personRecord, recordPdf } from './record';

let runtime: TestRuntime;
let lead: Viewer;
beforeEach(async () => {
  runtime = await smallRuntime(['2026-11-20T10:00:00Z,L1,DRY,D1,opened', '2026-11-20T11:00:00Z,L2,DRY,D1,opened']);
  lead = await viewerByEmail(runtime, 'lead@staff.example');
});
afterEach(() => runtime.close());

const idOf = async (learner: string) => (await runtime.db('learner').where('external_id', learner).first('id'))!.id;

describe('the record of a person', () => {
  it('holds everything of theirs by kind, with where it came from, and nothing of anybody else', async () => {
    await bringIn(runtime, 'contacts', 'learner_id,name,relation,may_receive\nL1,Rhona Marrow,family,yes\n');
    await saveNote(runtime, lead, await idOf('L1'), { body: 'Works nights.' });
    noteLook(runtime, lead, { learner: await idOf('L1'), what: 'page' });
    const record = await personRecord(runtime, lead, 'L1');
    const kind = (name: string) => record.kinds.find((one) => one.kind === name)!;
    expect(record).toMatchObject({ learner_id: 'L1', name: 'Ines Marrow', as_of: '2026-11-24T09:10:00Z' });
    expect(kind('learner').rows).toMatchObject([
      { external_id: 'L1', email: 'l1@learner.example', organisation: 'Norrick' },
    ]);
    expect(kind('event')).toMatchObject({
      count: 1,
      from: expect.stringContaining('log files'),
      rows: [{ at: '2026-11-20T10:00:00Z', course: 'DRY', item: 'D1', action: 'opened', source: expect.any(String) }],
    });
    expect(kind('note').rows).toMatchObject([{ body: 'Works nights.', staff: 'Hesper Vane' }]);
    expect(kind('learner_contact').rows).toMatchObject([{ name: 'Rhona Marrow' }]);
    expect(kind('look').rows).toMatchObject([{ staff: 'Hesper Vane', what: 'page', at: '2026-11-24T09:10:00Z' }]);
    expect(kind('enrolment').rows.map((row) => [row.course, row.enrolled_day])).toEqual([
      ['DRY', '2026-09-28'],
      ['NET', '2026-09-28'],
    ]);
    expect(JSON.stringify(record)).not.toMatch(/Tobias|L2|token|hash/);
    // That it was taken is on record.
    expect(await runtime.db('audit').where('what', 'like', 'took the record%').first('learner_id')).toEqual({
      learner_id: await idOf('L1'),
    });
  });

  it('is a PDF as well, and holds a record that was merged into it', async () => {
    await mergeLearners(runtime, lead, await idOf('L1'), await idOf('L5'));
    const record = await personRecord(runtime, lead, 'L5');
    expect(record.kinds[0].rows.map((row) => row.external_id)).toEqual(['L1', 'L5']);
    expect((await buffer(await recordPdf(runtime, lead, 'L1'))).subarray(0, 5).toString()).toBe('%PDF-');
  });

  it('is for leads, of whoever is there, and not while names are hidden', async () => {
    const mentor = await viewerByEmail(runtime, 'mentor@staff.example');
    await expect(personRecord(runtime, mentor, 'L1')).rejects.toThrow(NotFound);
    await expect(personRecord(runtime, lead, 'L99')).rejects.toThrow(NotFound);
    await expect(personRecord(runtime, { ...lead, standInKey: 'k' }, 'L1')).rejects.toThrow(InvalidInput);
  });

  it('knows every table that an erasure knows', () => {
    const known = new Set(RECORD_KINDS.map(({ table }) => table));
    // Notes of what is to be worked out anew say nothing about anybody.
    expect(Object.keys(TREATMENT).filter((table) => !known.has(table) && table !== 'touched')).toEqual([]);
  });
});

describe('who looked', () => {
  const rows = async (values = {}, viewer = lead) =>
    (await askList(LOOKS, runtime, viewer, values)).rows.map(({ by, learner_id, what, subject }) => [
      by,
      learner_id,
      what,
      subject,
    ]);
  const asked = (url: string, headers = {}) => [new Request(`http://x${url}`), new Response('', { headers })] as const;

  it('is written down by whoever it was, at whom, and what was taken away', async () => {
    const mentor = await viewerByEmail(runtime, 'mentor@staff.example');
    noteLook(runtime, mentor, { learner: await idOf('L1'), what: 'page' });
    // Drawn again after a press it is the same look.
    noteLook(runtime, mentor, { learner: await idOf('L1'), what: 'page' });
    runtime.setNow('2026-11-24T09:11:00Z');
    noteAnswer(runtime, lead, ...asked('/api/v1/learners/L2'), 'api');
    runtime.setNow('2026-11-24T09:12:00Z');
    const file = { 'content-disposition': 'attachment; filename="x.csv"' };
    noteAnswer(runtime, lead, ...asked('/lists/learners/export?course=DRY&q=Marrow&format=csv', file), 'page');
    // A page of a list is no look at anybody, and whoever is not there was not seen.
    noteAnswer(runtime, lead, ...asked('/api/v1/learners?course=DRY'), 'api');
    noteAnswer(runtime, lead, ...asked('/api/v1/learners/nobody'), 'api');
    noteAnswer(runtime, mentor, ...asked('/api/v1/learners/L3'), 'api');
    expect(await rows()).toEqual([
      ['Hesper Vane', null, 'export', '/lists/learners/export course=DRY format=csv'],
      ['Hesper Vane', 'L2', 'api', '/api/v1/learners/…'],
      ['Mair Tolland', 'L1', 'page', ''],
    ]);
    expect(await rows({ learner: 'L1' })).toHaveLength(1);
    runtime.passTime(61_000);
    noteLook(runtime, mentor, { learner: await idOf('L1'), what: 'page' });
    expect(await rows({ learner: 'L1' })).toHaveLength(2);
    expect(await rows({ staff: 'tolland' })).toHaveLength(2);
    expect(await rows({ from: '2026-11-25' })).toEqual([]);
    const first = await askList(LOOKS, runtime, lead, { limit: '2' });
    expect(first).toMatchObject({ total: 4, rows: { length: 2 } });
    expect((await askList(LOOKS, runtime, lead, { limit: '2', cursor: first.next! })).rows).toHaveLength(2);
    await expect(rows({}, mentor)).rejects.toThrow(NotFound);
  });

  it('cannot be changed or taken away by anything in the application', async () => {
    noteLook(runtime, lead, { learner: await idOf('L1'), what: 'page' });
    expect(await rows()).toHaveLength(1);
    for (const sql of ['DELETE FROM look', "UPDATE look SET what = ''"])
      await expect(withRaw(runtime.db, (raw) => raw.exec(sql))).rejects.toThrow('stays as it was');
    await mergeLearners(runtime, lead, await idOf('L1'), await idOf('L5'));
    expect(await rows({ learner: 'L1' })).toHaveLength(1);
  });
});
