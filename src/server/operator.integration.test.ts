/** What whoever runs it meets: folders that cannot be opened, damage, full disks, many writers. */
import {
  chmodSync,
  closeSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  openSync,
  readFileSync,
  rmSync,
  statSync,
  utimesSync,
  writeFileSync,
  writeSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { GET as health } from '@/app/api/v1/health/route';
import { BUSY, Busy, openDb, withRaw, writing, rawTransaction } from '@/data/db';
import { asProblem } from './request/api';
import { checkAll } from './check';
import { clearBrokenUploads } from './imports/queue';
import { lookForDamage } from './integrity';
import { errorLine } from './log';
import { readAllPast } from './drift/recalculate';
import { CannotOpen, openRuntime } from './runtime';
import { readSettings } from './settings';
import { bringIn, logOf, smallRuntime, type TestRuntime } from './testing';

let dir: string;
beforeEach(() => {
  dir = mkdtempSync(join(tmpdir(), 'lee-shore-operator-'));
});
afterEach(() => rmSync(dir, { recursive: true, force: true }));

const open = (folder = dir) =>
  openRuntime(readSettings({ LEESHORE_DATA_DIR: folder, LEESHORE_LOG: 'silent' })).then((runtime) =>
    runtime.db.destroy(),
  );
const file = () => join(dir, 'lee-shore.sqlite');

describe('a data folder', () => {
  it('without its database, beside files of one, is not begun anew', async () => {
    await open();
    rmSync(file());
    await expect(open()).rejects.toThrow(/no database .* files of one \(outbox\.json\)/);
    rmSync(join(dir, 'outbox.json'));
    await open();
    rmSync(file());
    rmSync(join(dir, 'outbox.json'));
    mkdirSync(join(dir, 'rejects'), { recursive: true });
    writeFileSync(join(dir, 'rejects', '1.csv'), 'line,field,reason\r\n');
    await expect(open()).rejects.toThrow(/no database .* files of one \(rejects\)/);
    writeFileSync(file(), '');
    await expect(open()).rejects.toThrow(CannotOpen);
    expect(statSync(file()).size).toBe(0);
  });

  it('of a newer version, a damaged one, and what is no folder, are told apart in one sentence', async () => {
    await open();
    const db = new Database(file());
    db.exec("INSERT INTO schema_migration (name, batch, migration_time) VALUES ('9999-later', 9, 0)");
    db.close();
    await expect(open()).rejects.toThrow('newer version of Lee Shore');
    writeFileSync(file(), 'this is no database, whatever its name says. '.repeat(100));
    await expect(open()).rejects.toThrow('is damaged');
    writeFileSync(join(dir, 'plain'), 'x');
    await expect(open(join(dir, 'plain'))).rejects.toThrow('is no folder');
  });

  it('that cannot be written says so', async () => {
    await open();
    chmodSync(dir, 0o555);
    try {
      // Whoever may do everything may write here too.
      if (process.getuid?.() !== 0) await expect(open()).rejects.toThrow('cannot be written');
    } finally {
      chmodSync(dir, 0o755);
    }
  });
});

describe('a database', () => {
  let runtime: TestRuntime;
  beforeEach(async () => {
    runtime = await smallRuntime();
    (globalThis as Record<symbol, unknown>)[Symbol.for('lee-shore.runtime')] = Promise.resolve(runtime);
  });
  afterEach(async () => {
    delete (globalThis as Record<symbol, unknown>)[Symbol.for('lee-shore.runtime')];
    await runtime.close();
  });

  it('with damaged pages says so in health, and the check lists them and goes on', async () => {
    await bringIn(
      runtime,
      'access-log',
      logOf(
        Array.from(
          { length: 3000 },
          (_, i) => `2026-11-${10 + (i % 9)}T10:${String(i % 60).padStart(2, '0')}:00Z,L${(i % 4) + 1},DRY,,opened`,
        ),
      ),
    );
    await readAllPast(runtime);
    expect((await health()).status).toBe(200);
    expect(await lookForDamage(runtime)).toEqual([]);
    const root = await withRaw(runtime.db, (raw) => {
      raw.pragma('wal_checkpoint(TRUNCATE)');
      return raw.prepare("SELECT rootpage FROM sqlite_master WHERE name = 'visit_course'").pluck().get() as number;
    });
    const path = join(runtime.settings.dataDir, 'lee-shore.sqlite');
    const handle = openSync(path, 'r+');
    writeSync(handle, Buffer.alloc(2048, 0x5a), 0, 2048, (root - 1) * 4096 + 1024);
    closeSync(handle);
    await withRaw(runtime.db, (raw) => raw.pragma('shrink_memory'));
    // What is remembered of the pages is as old as the file: another connection reads them.
    const other = { ...runtime, db: openDb(path) };
    expect(await lookForDamage(other)).toEqual(['visit_course']);
    const answer = await health();
    expect(answer.status).toBe(503);
    expect(await answer.json()).toMatchObject({
      title: 'Database damaged',
      detail: expect.stringContaining('visit_course'),
    });
    const { problems, readings } = await checkAll(other);
    expect(problems.join('\n')).toContain('visit_course');
    expect(readings).toBeGreaterThan(0);
    await other.db.destroy();
  });

  it('in which a date of completion, a progress or a past reading is wrong does not pass the check', async () => {
    await bringIn(
      runtime,
      'access-log',
      logOf(['10', '12', '14'].map((day) => `2026-11-${day}T10:00:00Z,L1,DRY,D1,opened`)),
    );
    await bringIn(
      runtime,
      'results',
      'learner_id,course,item_id,attempt,submitted_at,score,points\nL1,DRY,D2,1,2026-11-12T10:00:00Z,8,10\n',
    );
    await readAllPast(runtime);
    const problems = async () => (await checkAll(runtime)).problems;
    expect(await problems()).toEqual([]);
    const enrolment = (await runtime.db('enrolment_progress').where('done', '>', 0).first())!;
    const spoil = async (table: string, where: object, wrong: object) => {
      const before = await runtime.db(table).where(where).first();
      await runtime.db(table).where(where).update(wrong);
      const found = await problems();
      await runtime
        .db(table)
        .where(where)
        .update(Object.fromEntries(Object.keys(wrong).map((name) => [name, before[name]])));
      return found;
    };
    const own = { enrolment_id: enrolment.enrolment_id };
    expect(await spoil('enrolment_progress', own, { done_days: '[[1,20400]]' })).toContain(
      `progress of enrolment ${enrolment.enrolment_id}: done_days differs`,
    );
    const reading = await runtime.db('drift_reading').where(own).whereNotNull('score').first();
    expect(await spoil('drift_reading', { ...own, day: reading!.day }, { score: 99 })).toEqual([
      expect.stringContaining(`drift of enrolment ${enrolment.enrolment_id}`),
    ]);
    const course = await runtime.db('course').where({ code: 'DRY' }).first();
    const [first, second] = await runtime.db('item').where({ course_id: course!.id }).orderBy('position').limit(2);
    expect(await spoil('item', { id: second.id }, { position: first.position })).toEqual([
      `course DRY has two items of one outline at its place ${first.position}`,
    ]);
    expect(await problems()).toEqual([]);
  });

  it('is mapped into memory as far as the settings say', async () => {
    const path = join(runtime.settings.dataDir, 'lee-shore.sqlite');
    for (const mapped of [0, 1024 ** 2]) {
      const db = openDb(path, 'web', mapped);
      expect(await withRaw(db, (raw) => raw.pragma('mmap_size', { simple: true }))).toBe(mapped);
      await db.destroy();
    }
  });

  it('that somebody else writes to keeps nobody from reading, and is given up as busy, not failed', async () => {
    const path = join(runtime.settings.dataDir, 'lee-shore.sqlite');
    const web = openDb(path, 'web');
    const holder = new Database(path);
    holder.exec('BEGIN IMMEDIATE');
    let longest = 0;
    let last = performance.now();
    const ticking = setInterval(() => {
      longest = Math.max(longest, performance.now() - last);
      last = performance.now();
    }, 10);
    const write = writing(web, (trx) => trx('setting').insert({ name: 'a', value: '1' }));
    const bulk = rawTransaction(web, (raw) => raw.exec("INSERT INTO setting VALUES ('b', '1')"));
    for (let i = 0; i < 20; i += 1) {
      await web('learner').count('* as n');
      await new Promise((resolve) => setTimeout(resolve, 20));
    }
    holder.exec('COMMIT');
    await Promise.all([write, bulk]);
    clearInterval(ticking);
    // The thread itself never stood still for the lock.
    expect(longest).toBeLessThan(250);
    expect(await web('setting').whereIn('name', ['a', 'b']).count('* as n')).toEqual([{ n: 2 }]);
    holder.close();
    await web.destroy();
    // Thrown by a part of the application that is bundled apart, with its statement before it.
    const elsewhere = Object.assign(new Error(`insert into a secret - ${BUSY}`), { name: 'Busy' });
    for (const error of [new Busy(), elsewhere]) {
      const answer = asProblem(runtime, error);
      expect([answer.status, answer.headers.get('retry-after')]).toEqual([503, '5']);
      expect(await answer.json()).toMatchObject({ detail: BUSY });
    }
  });

  it('on a full disk is answered with 507, in words', async () => {
    for (const code of ['ENOSPC', 'SQLITE_FULL']) {
      const answer = asProblem(runtime, Object.assign(new Error('x'), { code }));
      expect(answer.status).toBe(507);
      expect(await answer.json()).toMatchObject({
        title: 'Disk full',
        detail: expect.stringContaining('nothing was stored'),
      });
    }
  });

  it('says nothing of anybody in the log', async () => {
    const error = await runtime
      .db('learner')
      .insert({ external_id: 'L1', given_name: 'Ines Marrow' })
      .catch((e: unknown) => e);
    const line = JSON.stringify(errorLine(error));
    expect(line).toContain('UNIQUE constraint failed: learner.external_id');
    expect(line).not.toMatch(/Ines|Marrow|insert into/);
    await withRaw(runtime.db, (raw) => raw.exec('CREATE TEMP TABLE x (y)'));
    const raw = await runtime.db.raw("SELECT nothing FROM learner WHERE given_name = 'Ines'").catch((e: unknown) => e);
    expect(JSON.stringify(errorLine(raw))).not.toContain('Ines');
  });

  it('chunks of uploads that broke off are cleared away, and nothing that is waited for', async () => {
    const incoming = join(runtime.settings.dataDir, 'incoming');
    const old = new Date(runtime.clock.real() - 24 * 3_600_000);
    for (const name of ['chunk', 'waited', 'young']) writeFileSync(join(incoming, name), 'x');
    for (const name of ['chunk', 'waited']) utimesSync(join(incoming, name), old, old);
    await runtime.db('import_run').insert({
      kind: 'roster',
      source: 'files',
      timezone: 'UTC',
      file_name: 'a',
      path: 'waited',
      size: 1,
      state: 'waiting',
      created_at: 0,
    });
    expect(await clearBrokenUploads(runtime)).toBe(1);
    expect(['chunk', 'waited', 'young'].map((name) => existsSync(join(incoming, name)))).toEqual([false, true, true]);
    expect(readFileSync(join(incoming, 'waited'), 'utf8')).toBe('x');
  });
});
