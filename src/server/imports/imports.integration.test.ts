import { spawn } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { countOf } from '@/data/db';
import { dayFromDate, dayOf } from '@/core/time/zone';
import { withRaw } from '@/data/db';
import { openRuns } from '@/data/imports/import-runs';
import { checkAll } from '../check';
import { learnerDetail } from '../people/learner-detail';
import { recalculate } from '../drift/recalculate';
import { SYSTEM_VIEWER } from '../system-viewer';
import { SMALL, bringIn, counts, logOf, smallRuntime, testRuntime, type TestRuntime } from '../testing';
import { workOnNext } from './queue';
import { makeOwner } from '../owner';

let runtime: TestRuntime;

beforeEach(async () => {
  runtime = await smallRuntime();
});
afterEach(() => runtime.close());

const CLICK = '2026-11-20T10:00:00Z,L1,DRY,D1,opened';
const eventCount = () => countOf(runtime.db('event'));
const noDifference = async () => expect((await checkAll(runtime)).problems).toEqual([]);

describe('the same event again', () => {
  it('is added once by the same file, and by overlapping ones in any order', async () => {
    const other = '2026-11-21T10:00:00Z,L1,DRY,D2,opened';
    expect((await bringIn(runtime, 'access-log', logOf([CLICK]))).accepted).toBe(1);
    expect((await bringIn(runtime, 'access-log', logOf([CLICK]))).duplicate).toBe(1);
    expect(counts(await bringIn(runtime, 'access-log', logOf([other, CLICK])))).toMatchObject({
      accepted: 1,
      duplicate: 1,
    });
    expect(await eventCount()).toBe(2);
  });

  it('stays twice when it was two true clicks in one second', async () => {
    expect((await bringIn(runtime, 'access-log', logOf([CLICK, CLICK]))).accepted).toBe(2);
    expect((await bringIn(runtime, 'access-log', logOf([CLICK, CLICK]))).duplicate).toBe(2);
    expect(counts(await bringIn(runtime, 'access-log', logOf([CLICK, CLICK, CLICK])))).toMatchObject({
      accepted: 1,
      duplicate: 2,
    });
    expect((await bringIn(runtime, 'access-log', logOf([CLICK]))).duplicate).toBe(1);
    expect(await eventCount()).toBe(3);
  });

  it('is told by the source’s own id where it has one', async () => {
    const withIds = (...ids: string[]) =>
      ['time,learner_id,course,item_id,action,event_id', ...ids.map((id) => `${CLICK},${id}`), ''].join('\n');
    expect((await bringIn(runtime, 'access-log', withIds('a', 'b', 'a'), { source: 'one' })).accepted).toBe(2);
    expect((await bringIn(runtime, 'access-log', withIds('a'), { source: 'two' })).accepted).toBe(1);
    expect((await bringIn(runtime, 'access-log', withIds('b'), { source: 'one' })).duplicate).toBe(1);
  });

  it('may differ in its address alone', async () => {
    const from = (address: string) => `time,learner_id,course,item_id,action,address\n${CLICK},${address}\n`;
    await bringIn(runtime, 'access-log', from('198.51.100.1'));
    expect((await bringIn(runtime, 'access-log', from('198.51.100.2'))).accepted).toBe(1);
    expect((await bringIn(runtime, 'access-log', from('198.51.100.1'))).duplicate).toBe(1);
  });
});

describe('derived figures', () => {
  it('join visits when a later file fills in what lay between', async () => {
    const at = (time: string) => `2026-11-20T${time}Z,L1,DRY,D1,opened`;
    await bringIn(runtime, 'access-log', logOf([at('10:00:00'), at('10:50:00')]));
    expect(await runtime.db('visit_course').where('course_id', 1).count('* as n')).toEqual([{ n: 2 }]);
    await bringIn(runtime, 'access-log', logOf([at('10:25:00')]));
    expect(await runtime.db('visit_course').select('ms', 'events')).toEqual([{ ms: 51 * 60_000, events: 3 }]);
    await noDifference();
  });

  it('join over midnight, where two days hang together', async () => {
    await bringIn(runtime, 'access-log', logOf(['2026-11-20T23:45:00Z,L1,DRY,D1,opened']));
    await bringIn(runtime, 'access-log', logOf(['2026-11-21T00:20:00Z,L1,DRY,D1,opened']));
    await bringIn(runtime, 'access-log', logOf(['2026-11-21T00:05:00Z,L1,NET,N1,opened']));
    expect(await runtime.db('visit_course').countDistinct('visit_start as n')).toEqual([{ n: 1 }]);
    await noDifference();
  });

  it('are the same whatever order the events came in', async () => {
    const lines = Array.from({ length: 300 }, (_, i) => {
      const at = Date.UTC(2026, 9, 1) + ((i * 7919) % 4000) * 600_000;
      return `${new Date(at).toISOString()},L${(i % 3) + 1},${i % 2 ? 'DRY' : 'NET'},,opened`;
    });
    for (let i = 0; i < lines.length; i += 60) await bringIn(runtime, 'access-log', logOf(lines.slice(i, i + 60)));
    await noDifference();
    const one = await runtime.db('visit_course').orderBy(['learner_id', 'visit_start', 'course_id']);
    const again = await smallRuntime();
    await bringIn(again, 'access-log', logOf([...lines].sort().reverse()));
    expect(await again.db('visit_course').orderBy(['learner_id', 'visit_start', 'course_id'])).toEqual(one);
    await again.close();
  });

  it('do not count a staff member’s events in their own course as a learner’s', async () => {
    await bringIn(runtime, 'roster', 'learner_id,given_name,course\nS3,Jory,DRY\nS3,Jory,NET\n');
    await bringIn(
      runtime,
      'access-log',
      logOf(['2026-11-20T10:00:00Z,S3,DRY,D1,opened', '2026-11-20T11:00:00Z,S3,NET,N1,opened']),
    );
    const { enrolments } = await learnerDetail(runtime, SYSTEM_VIEWER, 'S3');
    expect(enrolments.map(({ course, last_access }) => [course, last_access])).toEqual(
      expect.arrayContaining([
        ['DRY', null],
        ['NET', '2026-11-20T11:00:00Z'],
      ]),
    );
    await noDifference();
  });

  it('give a learner’s events back to staff when they turn out to be staff', async () => {
    await bringIn(runtime, 'access-log', logOf([CLICK, '2026-11-20T11:00:00Z,L1,NET,N1,opened']));
    await bringIn(
      runtime,
      'staff',
      'staff_id,given_name,email,role,scope_kind,scope\nS9,Ines,l1@learner.example,instructor,course,DRY\n',
    );
    expect(await runtime.db('event').whereNotNull('staff_id').count('* as n')).toEqual([{ n: 1 }]);
    expect((await learnerDetail(runtime, SYSTEM_VIEWER, 'L1')).last_access).toBe('2026-11-20T11:00:00Z');
    await noDifference();
  });
});

describe('drift readings', () => {
  it('are made for the day, and for the days gone by when the application rested', async () => {
    await bringIn(runtime, 'access-log', logOf([CLICK]));
    runtime.setNow('2026-11-27T09:00:00Z');
    await recalculate(runtime);
    const days = await runtime.db('drift_reading').distinct('day').orderBy('day', 'desc').pluck('day');
    const today = dayOf(runtime.clock.now(), 'Europe/Dublin');
    expect(days.slice(0, 4)).toEqual([today, today - 1, today - 2, today - 3]);
    await noDifference();
  });

  it('leave out withdrawn learners, and breaks', async () => {
    await bringIn(
      runtime,
      'access-log',
      logOf([
        '2026-11-14T10:00:00Z,L1,DRY,D1,opened',
        '2026-11-13T10:00:00Z,L1,DRY,D1,opened',
        // The log goes on.
        '2026-11-23T10:00:00Z,S3,DRY,D1,opened',
      ]),
    );
    const detail = await learnerDetail(runtime, SYSTEM_VIEWER, 'L1');
    expect(detail.enrolments.find((one) => one.course === 'DRY')).toMatchObject({ band: 'adrift' });
    const gone = await learnerDetail(runtime, SYSTEM_VIEWER, 'L5');
    expect(gone.enrolments).toMatchObject([{ status: 'withdrawn', drift: null, band: 'no reading' }]);
  });
});

describe('files in other dress', () => {
  it.each([
    ['UTF-16 with a mark', (text: string) => Buffer.from(`\uFEFF${text}`, 'utf16le')],
    ['Windows-1252', (text: string) => Buffer.from(text, 'latin1')],
    ['UTF-8 with a mark', (text: string) => Buffer.from(`\uFEFF${text}`)],
    ['semicolons', (text: string) => Buffer.from(text.replaceAll(',', ';'))],
    ['tabs and other line ends', (text: string) => Buffer.from(text.replaceAll(',', '\t').replaceAll('\n', '\r\n'))],
  ])('%s', async (_, dress) => {
    const text = 'learner_id,given_name,family_name,course\nL9,Béa,O\u2019Dell\nL9,Béa,Strand,DRY\n'.replace(
      '\u2019',
      "'",
    );
    const run = await bringIn(runtime, 'roster', dress(text));
    expect(counts(run)).toMatchObject({ accepted: 1, rejected: 1 });
    expect(await learnerDetail(runtime, SYSTEM_VIEWER, 'L9')).toMatchObject({ name: 'Béa Strand' });
  });

  it('times without an offset are in the import’s zone', async () => {
    await bringIn(runtime, 'access-log', logOf(['2026-07-01T09:00:00,L1,DRY,D1,opened']), {
      timezone: 'America/New_York',
    });
    expect((await learnerDetail(runtime, SYSTEM_VIEWER, 'L1')).last_access).toBe('2026-07-01T13:00:00Z');
  });

  it('unknown columns are named', async () => {
    const run = await bringIn(runtime, 'roster', 'learner_id,given_name,course,shoe size\nL9,Béa,DRY,41\n');
    expect(JSON.parse(run.unknown_columns)).toEqual(['shoe size']);
  });

  it('a name may hold anything, and stays as it is', async () => {
    const names = [
      'O\'Dell "Q"',
      '<script>alert(1)</script>',
      '=1+1',
      'سَلمى',
      'Z\u0301ofi\u0302a',
      "x'; DROP TABLE learner;--",
    ];
    const rows = names.map((name, i) => `N${i},"${name.replaceAll('"', '""')}",DRY`);
    expect((await bringIn(runtime, 'roster', ['learner_id,given_name,course', ...rows, ''].join('\n'))).accepted).toBe(
      names.length,
    );
    for (const [i, name] of names.entries())
      expect((await learnerDetail(runtime, SYSTEM_VIEWER, `N${i}`)).name).toBe(name);
  });
});

describe('the roster', () => {
  it('is updated by a row that is there again, and leaves alone what the file does not have', async () => {
    const run = await bringIn(runtime, 'roster', 'learner_id,given_name,course,group\nL1,Inès,DRY,B\n');
    expect(counts(run)).toMatchObject({ accepted: 1, duplicate: 0 });
    const detail = await learnerDetail(runtime, SYSTEM_VIEWER, 'L1');
    expect(detail).toMatchObject({ name: 'Inès Marrow', phone: '+44 1632 960001' });
    expect(detail.enrolments.find((one) => one.course === 'DRY')).toMatchObject({
      group: 'B',
      enrolled_on: '2026-09-28',
    });
    expect((await bringIn(runtime, 'roster', 'learner_id,given_name,course,group\nL1,Inès,DRY,B\n')).duplicate).toBe(1);
  });

  it('refuses an end before its beginning', async () => {
    const run = await bringIn(
      runtime,
      'roster',
      'learner_id,given_name,course,enrolled_on,status,ended_on\nL8,A,DRY,2026-10-02,withdrawn,2026-10-01\n',
    );
    expect(counts(run)).toMatchObject({ accepted: 0, rejected: 1 });
  });

  it('keeps the day on which an undated end was first seen', async () => {
    await bringIn(
      runtime,
      'roster',
      'learner_id,given_name,course,status\nL2,Tobias,DRY,withdrawn\nL8,Una,DRY,completed\n',
    );
    runtime.setNow('2026-11-30T09:00:00Z');
    await bringIn(runtime, 'roster', 'learner_id,given_name,course,status\nL8,Una,DRY,completed\n');
    const row = await runtime
      .db('enrolment')
      .join('learner', 'learner.id', 'learner_id')
      .where('external_id', 'L8')
      .first('ended_day');
    expect(row.ended_day).toBe(dayFromDate('2026-11-24'));
  });
});

describe('interruptions', () => {
  const many = (count: number) =>
    logOf(
      Array.from(
        { length: count },
        (_, i) =>
          `${new Date(Date.UTC(2026, 9, 1) + i * 20_000).toISOString()},L${(i % 3) + 1},${i % 3 === 2 ? 'NET' : 'DRY'},,opened`,
      ),
    );

  it('a full disk leaves nothing half visible, and the import goes on when there is room', async () => {
    const pages = await withRaw(runtime.db, (raw) => raw.pragma('page_count', { simple: true }) as number);
    await withRaw(runtime.db, (raw) => raw.pragma(`max_page_count = ${pages + 90}`));
    const run = await bringIn(runtime, 'access-log', many(30_000));
    expect(run.state).toBe('running');
    expect(run.error).toMatch(/disk is full/);
    expect(await runtime.db('learner_day').count('* as n')).toEqual([{ n: 0 }]);
    await withRaw(runtime.db, (raw) => raw.pragma('max_page_count = 1073741823'));
    expect(await workOnNext(runtime, makeOwner())).toBe('done');
    expect(await eventCount()).toBe(30_000);
    await noDifference();
  });

  it('a kill in the middle is taken up where it was, true double clicks included', async () => {
    const dir = mkdtempSync(join(tmpdir(), 'lee-shore-'));
    const own = await testRuntime('2026-11-24T09:10:00Z', 'Europe/Dublin', dir);
    for (const kind of ['outline', 'roster', 'staff'] as const) await bringIn(own, kind, SMALL[kind]);
    const lines = many(120_000).split('\n');
    // Every tenth row is there twice, the second time at the very end of the file.
    const text = [...lines.slice(0, -1), ...lines.slice(1, -1).filter((_, i) => i % 10 === 0), ''].join('\n');
    const path = join(dir, 'log.csv');
    writeFileSync(path, text);
    const child = spawn('node', ['dist/lee.mjs', 'import', 'access-log', path], {
      env: { ...process.env, LEESHORE_DATA_DIR: dir, LEESHORE_NOW: '2026-11-24T09:10:00Z' },
    });
    for (let read = 0; read === 0; await pause(5)) {
      read = (await openRuns(own.db))[0]?.read ?? 0;
    }
    child.kill('SIGKILL');
    await new Promise((resolve) => child.on('exit', resolve));
    const [left] = await openRuns(own.db);
    expect(left.read).toBeLessThan(132_000);
    expect(await workOnNext(own, makeOwner())).toBe('done');
    expect(await countOf(own.db('event'))).toBe(132_000);
    expect((await checkAll(own)).problems).toEqual([]);
    expect((await bringIn(own, 'access-log', text)).duplicate).toBe(132_000);
    await own.close();
    await rm(dir, { recursive: true });
  });

  it('hundreds of thousands of broken rows are all counted and kept', async () => {
    const run = await bringIn(
      runtime,
      'access-log',
      `time,learner_id,course,action\n${'never,L1,DRY,opened\n'.repeat(300_000)}`,
    );
    expect(counts(run)).toEqual({ state: 'done', read: 300_000, accepted: 0, duplicate: 0, rejected: 300_000 });
    const rejects = readFileSync(join(runtime.settings.dataDir, 'rejects', `${run.id}.csv`), 'utf8');
    expect(rejects.trimEnd().split('\r\n')).toHaveLength(300_001);
  });
});
