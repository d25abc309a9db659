import { existsSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { text } from 'node:stream/consumers';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { ReportDefinition } from '@/core/reports/definition';
import { claimReportRun, openReportRuns } from '@/data/reports/runs';
import type { Viewer } from '@/data/scope';
import { makeOwner } from '../owner';
import { InvalidInput, NotFound } from '../request/input';
import { smallRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { makeReport } from './kept';
import { rowsAnswer, runAnswer } from './rows-answer';
import { askForRun, cancelOwnRun, clearOldReports, fileOfRun, recentRuns, runOf, workOnReport } from './runs';

let runtime: TestRuntime;
let mentor: Viewer;
let lead: Viewer;
beforeEach(async () => {
  runtime = await smallRuntime();
  mentor = await viewerByEmail(runtime, 'mentor@staff.example');
  lead = await viewerByEmail(runtime, 'lead@staff.example');
});
afterEach(() => runtime.close());

const DEFINITION: ReportDefinition = { whose: {}, per: 'learner', columns: ['learner_id', 'name'], for: 'staff' };
const ask = (viewer: Viewer, format: 'csv' | 'pdf' = 'csv') =>
  askForRun(runtime, viewer, {
    reportId: null,
    name: 'Long',
    definition: DEFINITION,
    format,
    layout: 'table',
    total: 2,
  });
const folder = () => join(runtime.settings.dataDir, 'reports');
const files = () => (existsSync(folder()) ? readdirSync(folder()) : []);

describe('a long report', () => {
  it('is made in the scope of whoever asked, and is theirs alone', async () => {
    const id = String(await ask(mentor));
    expect(await runOf(runtime, mentor, id)).toMatchObject({ state: 'waiting', done: 0, total: 2 });
    await expect(fileOfRun(runtime, mentor, id)).rejects.toThrow(NotFound);
    expect(await workOnReport(runtime, makeOwner())).toBe(true);
    expect(await workOnReport(runtime, makeOwner())).toBe(false);
    const { run, file } = await fileOfRun(runtime, mentor, id);
    expect(run).toMatchObject({ state: 'done', done: 2 });
    expect((await text(file)).trim().split('\r\n')).toEqual(['learner_id,name', 'L1,Ines Marrow', 'L4,Petra Sandoval']);
    await expect(runOf(runtime, lead, id)).rejects.toThrow(NotFound);
    await expect(runOf(runtime, { ...mentor, standInKey: 'k' }, id)).rejects.toThrow(NotFound);
    expect(await recentRuns(runtime, mentor)).toHaveLength(1);
    expect(await recentRuns(runtime, lead)).toHaveLength(0);
  });

  it('goes by the scope at the moment it is made, and not of the moment it was asked for', async () => {
    const id = String(await ask(mentor));
    await runtime.db('staff_scope').where('staff_id', mentor.staffId).delete();
    await workOnReport(runtime, makeOwner());
    expect(await text((await fileOfRun(runtime, mentor, id)).file)).toBe('learner_id,name\r\n');
  });

  it('is not made for somebody who has left', async () => {
    const id = String(await ask(mentor));
    await runtime.db('staff').where('id', mentor.staffId).update({ ended_at: 1 });
    await workOnReport(runtime, makeOwner());
    expect(await runOf(runtime, mentor, id)).toMatchObject({
      state: 'failed',
      error: expect.stringContaining('has left'),
    });
    expect(files()).toEqual([]);
  });

  it('is cancelled, before or while it is made, and leaves nothing', async () => {
    const id = String(await ask(mentor));
    await cancelOwnRun(runtime, mentor, id);
    expect(await workOnReport(runtime, makeOwner())).toBe(false);
    expect((await runOf(runtime, mentor, id)).state).toBe('cancelled');
    await expect(cancelOwnRun(runtime, lead, id)).rejects.toThrow(NotFound);
    const other = String(await ask(mentor, 'pdf'));
    const work = workOnReport(runtime, makeOwner());
    await cancelOwnRun(runtime, mentor, other);
    await work;
    expect((await runOf(runtime, mentor, other)).state).toBe('cancelled');
    expect(files().filter((name) => name.endsWith('.part'))).toEqual([]);
  });

  it('is taken up by another where whoever was at it has died, and by nobody while they live', async () => {
    const id = await ask(mentor);
    const [run] = await openReportRuns(runtime.db);
    const alive = makeOwner();
    await claimReportRun(runtime.db, run, { owner: alive, lease_until: Date.now() + 60_000 });
    expect(await workOnReport(runtime, makeOwner())).toBe(false);
    await runtime.db('report_run').where({ id }).update({ lease_until: 0 });
    expect(await workOnReport(runtime, makeOwner())).toBe(true);
    expect((await runOf(runtime, mentor, String(id))).state).toBe('done');
  });

  it('is kept for 14 days, and no file without one', async () => {
    const id = String(await ask(mentor));
    await workOnReport(runtime, makeOwner());
    writeFileSync(join(folder(), '99.part'), 'left behind');
    expect(await clearOldReports(runtime)).toBe(1);
    expect(existsSync(join(folder(), id))).toBe(true);
    runtime.setNow('2026-12-09T09:10:00Z');
    expect(await clearOldReports(runtime)).toBe(1);
    expect(files()).toEqual([]);
    await expect(runOf(runtime, mentor, id)).rejects.toThrow(NotFound);
  });

  it('is one of five at most that somebody has made at once', async () => {
    for (let count = 0; count < 5; count += 1) await ask(mentor);
    await expect(ask(mentor)).rejects.toThrow(InvalidInput);
    await expect(ask(lead)).resolves.toBeGreaterThan(0);
  });
});

describe('the rows of a kept report', () => {
  it('come at once where it is short, as a run where it is long', async () => {
    const id = String(await makeReport(runtime, lead, { ...DEFINITION, name: 'Everybody’s names / 1' }));
    const csv = await rowsAnswer(runtime, lead, id, { format: 'csv' });
    expect(csv.headers.get('content-disposition')).toBe('attachment; filename="everybody-s-names-1.csv"');
    expect((await csv.text()).trim().split('\r\n')).toHaveLength(5);
    const json = await (await rowsAnswer(runtime, lead, id, {})).json();
    expect(json).toMatchObject({ next: null, total: 4, columns: [{ name: 'learner_id' }, { name: 'name' }] });
    const pdf = await rowsAnswer(runtime, lead, id, { format: 'pdf', layout: 'pages' });
    expect(pdf.headers.get('content-type')).toBe('application/pdf');
    expect(
      Buffer.from(await pdf.arrayBuffer())
        .subarray(0, 5)
        .toString(),
    ).toBe('%PDF-');
    await expect(rowsAnswer(runtime, lead, id, { format: 'doc' })).rejects.toThrow(InvalidInput);
    await runtime.db.transaction(async (trx) => {
      const learners = Array.from({ length: 80 }, (_, n) => ({
        external_id: `X${n}`,
        given_name: `G${n}`,
        family_name: 'F',
        sort_key: `f g${n}`,
        find_key: `g${n} f x${n}`,
      }));
      for (const learner of learners) {
        const [row] = await trx('learner')
          .insert(learner as never)
          .returning('id');
        await trx('enrolment').insert({
          learner_id: row.id,
          course_id: 1,
          status: 'active',
          enrolled_day: 20_700,
        } as never);
      }
    });
    const long = await rowsAnswer(runtime, lead, id, { format: 'pdf', layout: 'pages' });
    expect(long.status).toBe(202);
    const { href } = await long.json();
    const run = href.split('/').at(-1);
    expect(await (await runAnswer(runtime, lead, run)).json()).toMatchObject({ href, state: 'waiting', progress: 0 });
    await workOnReport(runtime, makeOwner());
    const done = await runAnswer(runtime, lead, run);
    expect(done.status).toBe(200);
    expect(
      Buffer.from(await done.arrayBuffer())
        .subarray(0, 5)
        .toString(),
    ).toBe('%PDF-');
    await cancelOwnRun(runtime, lead, run);
    expect((await runAnswer(runtime, lead, run)).status).toBe(200);
  });
});
