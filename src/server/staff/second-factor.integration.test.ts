import { generateSync } from 'otplib';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { newOneTimeSecret } from '@/core/staff/one-time-code';
import type { Viewer } from '@/data/scope';
import { enter, smallRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { signIn } from './accounts';
import {
  goOn,
  newOwnPaper,
  ownSecond,
  readHalf,
  removeOwnCodes,
  resetSecond,
  setUpAtSignIn,
  setUpOwnCodes,
  showCode,
} from './second-factor';
import { setRolesWithSecond } from './second-factor-roles';
import { viewerBySession } from './sessions';
import { endStaff, givePassword } from './staff-accounts';

let runtime: TestRuntime;
let lead: Viewer;
let mentor: Viewer;
const MENTOR = 'mentor@staff.example';
const current = 'the password I have';
const FROM = { address: '::1', browser: null, agent: '' };

beforeEach(async () => {
  runtime = await smallRuntime();
  lead = await viewerByEmail(runtime, 'lead@staff.example');
  mentor = await viewerByEmail(runtime, MENTOR);
  for (const { staffId } of [lead, mentor]) await givePassword(runtime, lead, staffId, { password: current });
});
afterEach(() => runtime.close());

/** What an app shows, so many steps from now. */
const codeOf = (secret: string, steps = 0) =>
  generateSync({
    strategy: 'totp',
    secret,
    digits: 6,
    period: 30,
    epoch: Math.floor(runtime.clock.real() / 1000) + 30 * steps,
  });
const step = () => runtime.passTime(30_000);

/** Sets up an app; its secret and the codes on paper. */
async function withApp(viewer = mentor) {
  const secret = newOneTimeSecret();
  const paper = await setUpOwnCodes(runtime, viewer, { secret, code: codeOf(secret), current });
  step();
  return { secret, paper };
}

async function half(email = MENTOR, password = current): Promise<string> {
  const done = await signIn(runtime, { email, password }, FROM);
  if (!('half' in done)) throw new Error('nothing more was asked for');
  return done.half;
}

describe('codes of an app', () => {
  it('are asked for beside the password: the password alone opens nothing', async () => {
    const { secret } = await withApp();
    const word = await half();
    expect(await viewerBySession(runtime, word)).toBeNull();
    const { token } = await showCode(runtime, word, { code: codeOf(secret) }, FROM);
    expect(await viewerBySession(runtime, token)).toMatchObject({ name: 'Mair Tolland' });
    await expect(showCode(runtime, word, { code: codeOf(secret, 1) }, FROM)).rejects.toThrow('No such sign-in');
  });

  it('are good once, also for two at once', async () => {
    const { secret } = await withApp();
    const [one, two] = [await half(), await half()];
    const both = await Promise.allSettled(
      [one, two].map((word) => showCode(runtime, word, { code: codeOf(secret) }, FROM)),
    );
    expect(both.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
  });

  it('wait after wrong ones, whatever browser they come from', async () => {
    const { secret } = await withApp();
    const word = await half();
    for (let i = 0; i < 3; i += 1)
      await expect(showCode(runtime, word, { code: '000000' }, FROM)).rejects.toThrow('code is not right');
    await showCode(runtime, await half(), { code: '000000' }, FROM).catch(() => undefined);
    const far = { ...FROM, address: 'far' };
    await expect(showCode(runtime, await half(), { code: codeOf(secret) }, far)).rejects.toThrow('Wait');
    step();
    await showCode(runtime, await half(), { code: codeOf(secret) }, far);
  });

  it('can be shown for ten minutes after the password, and not once the account or the password is another', async () => {
    const { secret } = await withApp();
    const late = await half();
    runtime.setNow('2026-11-24T09:20:01Z');
    await expect(showCode(runtime, late, { code: codeOf(secret) }, FROM)).rejects.toThrow('No such sign-in');
    const ended = await half();
    await endStaff(runtime, lead, mentor.staffId, true);
    await expect(showCode(runtime, ended, { code: codeOf(secret) }, FROM)).rejects.toThrow('No such sign-in');
    await endStaff(runtime, lead, mentor.staffId, false);
    const changed = await half();
    await givePassword(runtime, lead, mentor.staffId, { password: 'another password' });
    await expect(showCode(runtime, changed, { code: codeOf(secret) }, FROM)).rejects.toThrow('No such sign-in');
  });

  it('are set up with a code of theirs and one’s password alone', async () => {
    const secret = newOneTimeSecret();
    const code = codeOf(secret);
    await expect(setUpOwnCodes(runtime, mentor, { secret, code, current: 'wrong' })).rejects.toThrow('current');
    await expect(setUpOwnCodes(runtime, mentor, { secret, code: '000000', current })).rejects.toThrow('code');
    await expect(setUpOwnCodes(runtime, mentor, { secret: 'AAAA', code, current })).rejects.toThrow('secret');
    expect(await ownSecond(runtime, mentor)).toMatchObject({ codes: false, recovery: 0 });
    expect(await enter(runtime, MENTOR, current)).toBeTruthy();
  });

  it('of another app take the place of the first', async () => {
    const first = await withApp();
    const second = await withApp();
    const word = await half();
    await expect(showCode(runtime, word, { code: codeOf(first.secret) }, FROM)).rejects.toThrow('code');
    await showCode(runtime, word, { code: codeOf(second.secret) }, FROM);
  });
});

describe('recovery codes', () => {
  it('let in once each, however they are typed, and are kept as hashes', async () => {
    const { paper } = await withApp();
    expect(new Set(paper).size).toBe(10);
    expect(JSON.stringify(await runtime.db('recovery_code').select('*'))).not.toContain(paper[0]);
    const typed = ` ${paper[0].toUpperCase().replace('-', ' ')} `;
    await showCode(runtime, await half(), { code: typed }, FROM);
    await expect(showCode(runtime, await half(), { code: paper[0] }, FROM)).rejects.toThrow('code');
    expect(await ownSecond(runtime, mentor)).toMatchObject({ recovery: 9 });
    expect(await runtime.db('audit').where('what', 'used a recovery code').first('staff_id')).toEqual({
      staff_id: mentor.staffId,
    });
  });

  it('used up, leave a lead to take the second factor off', async () => {
    const { paper } = await withApp();
    for (const code of paper) await showCode(runtime, await half(), { code }, FROM);
    expect(await ownSecond(runtime, mentor)).toMatchObject({ recovery: 0 });
    for (const code of paper) {
      runtime.passTime(3_600_000);
      await expect(showCode(runtime, await half(), { code }, FROM)).rejects.toThrow('code');
    }
    const open = await half();
    await expect(resetSecond(runtime, mentor, lead.staffId)).rejects.toThrow('found here');
    await resetSecond(runtime, lead, mentor.staffId);
    await expect(resetSecond(runtime, lead, mentor.staffId)).rejects.toThrow('No second factor');
    expect(await readHalf(runtime, open)).toBeNull();
    expect(await viewerBySession(runtime, await enter(runtime, MENTOR, current))).not.toBeNull();
  });

  it('made anew put those before out of use; there are none without a second factor', async () => {
    await expect(newOwnPaper(runtime, mentor, { current })).rejects.toThrow('No second factor');
    const { paper } = await withApp();
    const [fresh] = await newOwnPaper(runtime, mentor, { current });
    await expect(showCode(runtime, await half(), { code: paper[0] }, FROM)).rejects.toThrow('code');
    await showCode(runtime, await half(), { code: fresh }, FROM);
    await removeOwnCodes(runtime, mentor, { current });
    expect(await runtime.db('recovery_code').select('*')).toEqual([]);
  });
});

describe('asked for of a role', () => {
  it('signs out who has none, who set one up as they sign in again', async () => {
    await withApp(lead);
    const before = await enter(runtime, MENTOR, current);
    expect(await setRolesWithSecond(runtime, lead, ['mentor'])).toBe(1);
    expect(await viewerBySession(runtime, before)).toBeNull();
    const word = await half();
    expect(await readHalf(runtime, word)).toMatchObject({ isToSetUp: true, isShown: false });
    await expect(goOn(runtime, word, FROM)).rejects.toThrow('No such sign-in');
    const secret = newOneTimeSecret();
    await expect(setUpAtSignIn(runtime, word, { secret, code: '000000' })).rejects.toThrow('code');
    expect(await setUpAtSignIn(runtime, word, { secret, code: codeOf(secret) })).toHaveLength(10);
    // It is set up once: whoever has the half sign-in too puts no other in its place.
    await expect(setUpAtSignIn(runtime, word, { secret, code: codeOf(secret) })).rejects.toThrow('No such sign-in');
    const { token } = await goOn(runtime, word, FROM);
    expect(await viewerBySession(runtime, token)).toMatchObject({ name: 'Mair Tolland' });
    await expect(goOn(runtime, word, FROM)).rejects.toThrow('No such sign-in');
    await expect(removeOwnCodes(runtime, mentor, { current })).rejects.toThrow('asked for of your role');
    expect(await ownSecond(runtime, mentor)).toMatchObject({ codes: true, recovery: 10, isAskedFor: true });
  });

  it('whoever has one already goes on as they are', async () => {
    await withApp();
    const { token } = await showCode(runtime, await half(), { code: (await withApp()).paper[0] }, FROM);
    expect(await setRolesWithSecond(runtime, lead, ['mentor', 'instructor'])).toBe(0);
    expect(await viewerBySession(runtime, token)).not.toBeNull();
  });

  it('a lead cannot ask leads for one without having one, nor for a role that there is none of', async () => {
    await expect(setRolesWithSecond(runtime, lead, ['lead'])).rejects.toThrow('set up your own');
    await expect(setRolesWithSecond(runtime, lead, ['king'])).rejects.toThrow('roles are not among');
    await expect(setRolesWithSecond(runtime, mentor, ['mentor'])).rejects.toThrow('found here');
    await withApp(lead);
    await setRolesWithSecond(runtime, lead, ['lead']);
    expect(await ownSecond(runtime, lead)).toMatchObject({ isAskedFor: true });
    await setRolesWithSecond(runtime, lead, []);
    await removeOwnCodes(runtime, lead, { current });
  });
});
