import { spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { SMALL, logOf } from '@/server/testing';

let dir: string;

function lee(...args: string[]) {
  const env = {
    ...process.env,
    LEESHORE_DATA_DIR: join(dir, 'data'),
    LEESHORE_NOW: '2026-11-24T09:10:00Z',
    LEESHORE_TIMEZONE: 'Europe/Dublin',
  };
  const { status, stdout, stderr } = spawnSync('node', ['dist/lee.mjs', ...args], { env, encoding: 'utf8', input: '' });
  return { status, out: stdout.trim(), err: stderr.trim() };
}

function file(name: string, text: string): string {
  const path = join(dir, name);
  writeFileSync(path, text);
  return path;
}

beforeAll(() => {
  dir = mkdtempSync(join(tmpdir(), 'lee-shore-cli-'));
  for (const kind of ['outline', 'roster', 'staff'] as const) {
    expect(lee('import', kind, file(`${kind}.csv`, SMALL[kind])).status).toBe(0);
  }
});
afterAll(() => rmSync(dir, { recursive: true, force: true }));

describe('lee', () => {
  it('imports, and says what became of the rows', () => {
    const log = file('log.csv', logOf(['2026-11-10T10:00:00,L1,DRY,D1,opened', 'never,L1,DRY,D1,opened']));
    const { status, out } = lee('import', 'access-log', log, '--source', 'north', '--timezone', 'America/New_York');
    expect(status).toBe(0);
    expect(JSON.parse(out)).toMatchObject({
      kind: 'access-log',
      read: 2,
      accepted: 1,
      duplicate: 0,
      rejected: 1,
      unmatched: 0,
    });
    expect(lee('export', 'learners').out).toContain('L1,Ines Marrow');
    expect(lee('export', 'learners').out).toContain('2026-11-10T15:00:00Z');
  });

  it('refuses in one clear line what it cannot do', () => {
    expect(lee('import', 'roster', file('bad.csv', 'colour\nred\n'))).toMatchObject({
      status: 1,
      err: expect.stringContaining('was refused'),
    });
    expect(lee('import', 'pictures', file('bad.csv', 'x'))).toMatchObject({
      status: 1,
      err: expect.stringContaining('kind is not one of'),
    });
    expect(lee('export', 'everything')).toMatchObject({ status: 1, err: expect.stringContaining('There is no view') });
    expect(lee('break', 'NOWHERE', '2026-10-26', '2026-11-01')).toMatchObject({
      status: 1,
      err: expect.stringContaining('no course NOWHERE'),
    });
    expect(lee('break', 'DRY', '2026-02-30', '2026-11-01')).toMatchObject({
      status: 1,
      err: 'from is not a date such as 2026-11-24',
    });
    expect(lee('feed-gap', 'nobody', '2026-11-01', '2026-11-02')).toMatchObject({
      status: 1,
      err: expect.stringContaining('no source nobody'),
    });
  });

  it('counts breaks and log gaps out of the quiet', () => {
    const drift = () =>
      JSON.parse(lee('export', 'learners', '--format', 'json').out).data.find(
        (row: { learner_id: string }) => row.learner_id === 'L2',
      ).drift;
    // An instructor looks in, so that the log goes on, and somebody's hand-in is known.
    const log = file(
      'goes-on.csv',
      logOf(['2026-11-23T10:00:00Z,S3,DRY,D1,opened', '2026-11-02T10:00:00Z,L4,DRY,D2,submitted']),
    );
    expect(lee('import', 'access-log', log, '--source', 'north').status).toBe(0);
    const before = drift();
    expect(lee('break', 'DRY', '2026-09-28', '2026-11-23', 'a long rest').status).toBe(0);
    expect(drift()).toBeLessThan(before);
    expect(lee('feed-gap', 'north', '2026-11-01T00:00:00Z', '2026-11-02T00:00:00Z').status).toBe(0);
  });

  it('adds accounts, checks and backs up', () => {
    expect(
      lee('account', 'add', '--email', 'new@staff.example', '--given-name', 'Nia', '--password', 'short'),
    ).toMatchObject({ status: 1 });
    const added = lee(
      'account',
      'add',
      '--email',
      'new@staff.example',
      '--given-name',
      'Nia',
      '--password',
      'a long password',
      '--role',
      'lead',
    );
    expect(added.out).toBe('new@staff.example: added');
    expect(lee('check')).toMatchObject({ status: 0, out: expect.stringContaining('0 differences') });
    const copy = join(dir, 'copy.sqlite');
    expect(lee('backup', copy).status).toBe(0);
    const backup = new Database(copy, { readonly: true });
    expect(backup.prepare('SELECT count(*) AS n FROM learner').get()).toEqual({ n: 5 });
    backup.close();
    expect(existsSync(`${copy}.part`)).toBe(false);
  });

  it('tries rules and fits weights on what has ended, and says so where there is too little', () => {
    expect(lee('trial')).toMatchObject({ status: 0, out: expect.stringMatching(/^no finished course: 0 learners/) });
    const old =
      'course,course_title,starts_on,ends_on,item_id,item,kind,required\nOLD,Old,2026-05-04,2026-07-12,O1,Stone,page,yes\n';
    expect(lee('import', 'outline', file('old.csv', old)).status).toBe(0);
    const roster = 'learner_id,given_name,course,enrolled_on\nL1,Ines,OLD,2026-05-04\n';
    expect(lee('import', 'roster', file('old-roster.csv', roster)).status).toBe(0);
    const [found] = JSON.parse(lee('trial', '--course', 'OLD', '--rule', 'watch,quiet>=10', '--format', 'json').out);
    expect(found).toMatchObject({
      courses: ['OLD'],
      rule: 'watch',
      learners: 1,
      leavers: 0,
      never_came: 1,
      recall: null,
    });
    expect(lee('trial', '--course', 'DRY')).toMatchObject({
      status: 1,
      err: expect.stringContaining('no course that has ended'),
    });
    expect(lee('trial', '--rule', 'guess')).toMatchObject({ status: 1, err: expect.stringContaining('is not one of') });
    expect(lee('fit').out).toContain('Refused: 0 leavers');
    expect(JSON.parse(lee('fit', '--format', 'json').out)).toMatchObject({
      proposed: false,
      weights: expect.any(Array),
    });
  });

  it('finds what was changed behind its back', () => {
    const db = new Database(join(dir, 'data', 'lee-shore.sqlite'));
    db.exec('UPDATE learner_day SET ms = ms + 1');
    db.close();
    const { status, err, out } = lee('check');
    expect(status).toBe(1);
    expect(err).toContain('learner_day of learner');
    expect(out).toContain('2 differences');
  });
});
