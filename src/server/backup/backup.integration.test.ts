import { mkdtempSync, readdirSync, rmSync, truncateSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { archiveNext, askArchive } from '../archive/archive';
import { openRuntime } from '../runtime';
import { SMALL, bringIn, logOf, smallRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { backupsMade } from './made';
import { archivesBeside, checkBackup, makeBackup } from './make';
import { backUpIfDue, dueBackup } from './schedule';

let runtime: TestRuntime;
let dir: string;

beforeEach(async () => {
  const opened = await smallRuntime();
  dir = mkdtempSync(join(tmpdir(), 'lee-shore-backups-'));
  runtime = { ...opened, settings: { ...opened.settings, backups: { dir, minute: 150, kept: 2 } } };
});
afterEach(async () => {
  await runtime.close();
  rmSync(dir, { recursive: true, force: true });
});

const name = (date: string) => `lee-shore-${date}.sqlite`;

describe('a backup', () => {
  it('can be put back, with its archives, and is looked through in a folder that goes again', async () => {
    const outline = SMALL.outline.replaceAll('Walling,2026-09-28,2026-12-21', 'Walling,2026-09-28,2026-11-22');
    await bringIn(runtime, 'outline', outline);
    await bringIn(runtime, 'access-log', logOf(['2026-11-02T10:00:00Z,L1,DRY,D1,opened']));
    await askArchive(runtime, await viewerByEmail(runtime, 'lead@staff.example'), { course: 'DRY' });
    await archiveNext(runtime);
    const file = join(dir, 'mine.sqlite');
    expect(await makeBackup(runtime, file)).toBe(1);
    expect(await checkBackup(runtime, file)).toEqual([]);
    expect(readdirSync(dir).sort()).toEqual(['mine.sqlite', 'mine.sqlite-archive']);
    expect(await backupsMade(runtime)).toEqual([
      { file, at: runtime.clock.now(), checked: { at: runtime.clock.now(), problems: [] } },
    ]);
    rmSync(archivesBeside(file), { recursive: true });
    expect(await checkBackup(runtime, file)).toEqual([expect.stringContaining('archive of DRY, 2026-11: lost')]);
  });

  it('that is damaged, cut off, empty or none says so', async () => {
    const file = join(dir, 'mine.sqlite');
    await makeBackup(runtime, file);
    truncateSync(file, 200_000);
    expect((await checkBackup(runtime, file)).length).toBeGreaterThan(0);
    writeFileSync(file, 'no database');
    expect(await checkBackup(runtime, file)).toEqual([expect.stringContaining('cannot be put back')]);
    rmSync(file);
    expect(await checkBackup(runtime, file)).toEqual([expect.stringContaining('cannot be put back')]);
    const empty = await openRuntime({ ...runtime.settings, dataDir: join(dir, 'empty') });
    await makeBackup(empty, file);
    await empty.db.destroy();
    expect(await checkBackup(runtime, file)).toContain('learner: no rows');
    expect(readdirSync(dir).filter((one) => one.startsWith('restored-'))).toEqual([]);
  });
});

describe('by itself', () => {
  it('is made once a day after its hour in the programme’s zone, and one that was missed as soon as it can be', async () => {
    runtime.setNow('2026-11-24T02:29:00Z');
    expect(dueBackup(runtime)).toBe(join(dir, name('2026-11-23')));
    expect(await backUpIfDue(runtime)).toEqual([]);
    expect(await backUpIfDue(runtime)).toBeNull();
    runtime.setNow('2026-11-24T02:30:00Z');
    expect(await backUpIfDue(runtime)).toEqual([]);
    expect(dueBackup(runtime)).toBeNull();
    runtime.setNow('2026-11-27T14:00:00Z');
    expect(dueBackup(runtime)).toBe(join(dir, name('2026-11-27')));
    expect(dueBackup({ ...runtime, settings: { ...runtime.settings, backups: null } })).toBeNull();
  });

  it('keeps as many as are asked for, and nothing else of the folder goes', async () => {
    writeFileSync(join(dir, 'lee-shore-2026-11-24.sqlite.part'), 'killed');
    writeFileSync(join(dir, 'of-another-program.sqlite'), 'mine');
    for (const day of ['24', '25', '26', '27']) {
      runtime.setNow(`2026-11-${day}T03:00:00Z`);
      expect(await backUpIfDue(runtime)).toEqual([]);
    }
    expect(readdirSync(dir).sort()).toEqual([name('2026-11-26'), name('2026-11-27'), 'of-another-program.sqlite']);
    expect((await backupsMade(runtime)).map(({ file }) => file)).toEqual([
      join(dir, name('2026-11-27')),
      join(dir, name('2026-11-26')),
    ]);
  });

  it('in which something is wrong takes no whole one’s place', async () => {
    for (const day of ['24', '25']) {
      runtime.setNow(`2026-11-${day}T03:00:00Z`);
      await backUpIfDue(runtime);
    }
    runtime.setNow('2026-11-26T03:00:00Z');
    const lead = await viewerByEmail(runtime, 'lead@staff.example');
    await bringIn(runtime, 'access-log', logOf(['2026-11-02T10:00:00Z,L1,DRY,D1,opened']));
    await runtime.db('course').where('code', 'DRY').update({ ends_day: 20_779 });
    await askArchive(runtime, lead, { course: 'DRY' });
    await archiveNext(runtime);
    const file = await runtime.db('archive_file').first('name');
    writeFileSync(join(runtime.settings.dataDir, 'archive', file!.name), 'damaged');
    expect(await backUpIfDue(runtime)).toEqual([expect.stringContaining('damaged')]);
    expect(readdirSync(dir).filter((one) => one.endsWith('.sqlite'))).toHaveLength(3);
  });
});
