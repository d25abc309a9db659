import { afterEach, beforeEach, expect, it } from 'vitest';
import { onRecordAs, addAudit } from '@/data/audit';
import { DAY } from '@/core/time/zone';
import type { Viewer } from '@/data/scope';
import { findAudit } from '@/server/request/reads';
import { LEARNERS } from '../people/learner-list';
import { askList, smallRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { bearerOf } from './bearers';
import { endAnyToken, endOwnToken, everyToken, makeToken, ownParts, ownTokens } from './own-tokens';
import { endStaff, givePassword, giveScope, takeScope } from './staff-accounts';

let runtime: TestRuntime;
let lead: Viewer;
let mentor: Viewer;
const current = 'the password I have';
const INPUT = { name: 'nightly export', may: 'read', days: '30', current };

beforeEach(async () => {
  runtime = await smallRuntime();
  lead = await viewerByEmail(runtime, 'lead@staff.example');
  mentor = await viewerByEmail(runtime, 'mentor@staff.example');
  for (const { staffId } of [lead, mentor]) await givePassword(runtime, lead, staffId, { password: current });
});
afterEach(() => runtime.close());

const seen = async (word: string) => {
  const bearer = await bearerOf(runtime, word);
  if (!bearer) return null;
  const { rows } = await askList(LEARNERS, runtime, bearer.viewer);
  return rows.map((row) => (row as { learner_id: string }).learner_id).sort();
};

it('asks in its owner’s name, is shown once and kept as a hash', async () => {
  const word = await makeToken(runtime, mentor, INPUT);
  expect(word).toMatch(/^lee_[\w-]{43}$/);
  expect(JSON.stringify(await runtime.db('own_token').select('*'))).not.toContain(word);
  expect(await bearerOf(runtime, word)).toMatchObject({
    viewer: { staffId: mentor.staffId, role: 'mentor' },
    mayWrite: false,
    via: 'the token “nightly export”',
  });
  expect(await seen(word)).toEqual(['L1', 'L4']);
  expect(await ownTokens(runtime, mentor)).toMatchObject([
    { name: 'nightly export', mayWrite: false, sees: null, used: runtime.clock.now() },
  ]);
  expect(await bearerOf(runtime, await makeToken(runtime, mentor, { ...INPUT, may: 'write' }))).toMatchObject({
    mayWrite: true,
  });
  expect(await bearerOf(runtime, 'lee_nonsense')).toBeNull();
});

it('sees no more than its part, and no more than its owner as they are now', async () => {
  const course = await makeToken(runtime, lead, { ...INPUT, part: 'course:NET' });
  expect(await seen(course)).toEqual(['L1', 'L3']);
  expect(await bearerOf(runtime, course)).toMatchObject({ viewer: { role: 'lead', all: false } });
  expect(await ownTokens(runtime, lead)).toMatchObject([{ sees: ['course NET'] }]);

  await giveScope(runtime, lead, mentor.staffId, { kind: 'course', target: 'NET' });
  mentor = await viewerByEmail(runtime, 'mentor@staff.example');
  const group = await makeToken(runtime, mentor, { ...INPUT, part: 'group:NET/A' });
  const all = await makeToken(runtime, mentor, INPUT);
  expect(await seen(group)).toEqual(['L1', 'L3']);
  const scope = await runtime.db('staff_scope').where({ staff_id: mentor.staffId, kind: 'course' }).first('id');
  await takeScope(runtime, lead, mentor.staffId, scope!.id);
  expect(await seen(group)).toEqual([]);
  expect(await seen(all)).toEqual(['L1', 'L4']);
});

it('is limited to what one sees as a whole alone', async () => {
  expect((await ownParts(runtime, mentor)).map(({ key }) => key)).toEqual(['group:DRY/A']);
  for (const part of ['course:DRY', 'group:DRY/B', 'organisation:Norrick', 'nonsense', 'caseload:1', 'course:<'])
    await expect(makeToken(runtime, mentor, { ...INPUT, part })).rejects.toThrow('part is not yours as a whole');
  await makeToken(runtime, mentor, { ...INPUT, part: 'group:DRY/A' });
});

it('ends by itself, by its owner, by a lead, with the account and with the password', async () => {
  const made = () => makeToken(runtime, mentor, INPUT);
  const old = await makeToken(runtime, mentor, { ...INPUT, days: '7' });
  const [{ expires }] = await ownTokens(runtime, mentor);
  expect(expires).toBe(runtime.clock.now() + 7 * DAY);
  runtime.setNow('2026-12-01T09:10:00Z');
  expect(await bearerOf(runtime, old)).toBeNull();

  const own = await made();
  const [{ id }] = await ownTokens(runtime, mentor);
  await expect(endOwnToken(runtime, lead, id)).rejects.toThrow('No such token');
  await endOwnToken(runtime, mentor, id);
  expect(await bearerOf(runtime, own)).toBeNull();
  await expect(endOwnToken(runtime, mentor, id)).rejects.toThrow('No such token');

  const byLead = await made();
  const [{ id: second, by }] = await everyToken(runtime, lead);
  expect(by).toBe('Mair Tolland');
  await expect(everyToken(runtime, mentor)).rejects.toThrow('found here');
  await expect(endAnyToken(runtime, mentor, second)).rejects.toThrow('found here');
  await endAnyToken(runtime, lead, second);
  expect(await bearerOf(runtime, byLead)).toBeNull();

  const withPassword = await made();
  await givePassword(runtime, lead, mentor.staffId, { password: current });
  expect(await bearerOf(runtime, withPassword)).toBeNull();

  const withAccount = await made();
  await endStaff(runtime, lead, mentor.staffId, true);
  await endStaff(runtime, lead, mentor.staffId, false);
  expect(await bearerOf(runtime, withAccount)).toBeNull();
});

it('shows nothing of what its owner wrote while names are hidden', async () => {
  await makeToken(runtime, mentor, { ...INPUT, name: 'for Mair Tolland', part: 'group:DRY/A' });
  const hidden = { standInKey: 'a key' };
  const shown = [
    ...(await everyToken(runtime, { ...lead, ...hidden })),
    ...(await ownTokens(runtime, { ...mentor, ...hidden })),
  ];
  expect(shown).toHaveLength(2);
  expect(JSON.stringify(shown)).not.toMatch(/Mair|Tolland/);
});

it('is made with one’s password alone, and names what is wrong', async () => {
  await expect(makeToken(runtime, mentor, { ...INPUT, current: 'wrong' })).rejects.toThrow('current');
  await expect(makeToken(runtime, mentor, { may: 'all', days: '9999' })).rejects.toMatchObject({
    errors: [{ field: 'name' }, { field: 'may' }, { field: 'days' }],
  });
});

it('names itself beside what it changes, as the shell and the installation’s token do', async () => {
  const note = (via: string | null, staff_id: number | null) =>
    onRecordAs(via, async () => {
      await Promise.resolve();
      await addAudit(runtime.db, { at: runtime.clock.now(), staff_id, what: 'did something', subject: '' });
    });
  await Promise.all([
    note('the token “x”', mentor.staffId),
    note(null, mentor.staffId),
    note('the installation’s token', 0),
  ]);
  const { rows } = await findAudit(runtime, lead, { limit: 3 });
  expect(rows.map(({ by, via }) => [by, via])).toEqual(
    expect.arrayContaining([
      ['Mair Tolland', 'the token “x”'],
      ['Mair Tolland', null],
      [null, 'the installation’s token'],
    ]),
  );
});
