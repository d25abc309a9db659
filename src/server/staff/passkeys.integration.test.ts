import { afterEach, beforeEach, expect, it } from 'vitest';
import type { Viewer } from '@/data/scope';
import { enter, smallRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { signIn } from './accounts';
import {
  askPasskey,
  keepPasskey,
  noPasskeysAt,
  offerPasskey,
  ownPasskeys,
  removeOwnPasskey,
  signInByPasskey,
} from './passkeys';
import { newOwnPaper, ownSecond, showCode } from './second-factor';
import { setRolesWithSecond } from './second-factor-roles';
import { viewerBySession } from './sessions';
import { endStaff, givePassword } from './staff-accounts';
import { TestDevice } from './test-device';

let runtime: TestRuntime;
let lead: Viewer;
let mentor: Viewer;
const MENTOR = 'mentor@staff.example';
const current = 'the password I have';
const FROM = { address: '::1', browser: null, agent: '' };
const HERE = { origin: 'https://lee-shore.example', host: 'lee-shore.example', agent: 'Firefox/140.0 (X11; Linux)' };

beforeEach(async () => {
  runtime = await smallRuntime();
  lead = await viewerByEmail(runtime, 'lead@staff.example');
  mentor = await viewerByEmail(runtime, MENTOR);
  for (const { staffId } of [lead, mentor]) await givePassword(runtime, lead, staffId, { password: current });
});
afterEach(() => runtime.close());

const device = (origin = HERE.origin, isVerified = true) => new TestDevice(origin, HERE.host, isVerified);

async function withPasskey(viewer = mentor, name = ''): Promise<TestDevice> {
  const made = device();
  const { challenge } = await offerPasskey(runtime, viewer, HERE);
  await keepPasskey(runtime, viewer, HERE, made.make(challenge), { current, name });
  return made;
}

/** Signs in without a password. */
async function enterWith(used: TestDevice): Promise<string> {
  const { challenge } = await askPasskey(runtime, HERE);
  return (await signInByPasskey(runtime, HERE, used.sign(challenge), FROM)).token;
}

async function half(): Promise<string> {
  const done = await signIn(runtime, { email: MENTOR, password: current }, FROM);
  if (!('half' in done)) throw new Error('nothing more was asked for');
  return done.half;
}

it('lets its owner in without a password, and keeps their public key alone', async () => {
  const own = await withPasskey();
  expect(await viewerBySession(runtime, await enterWith(own))).toMatchObject({ name: 'Mair Tolland' });
  expect(await ownPasskeys(runtime, mentor)).toMatchObject([
    { name: 'Firefox on Linux', used_at: runtime.clock.now() },
  ]);
  await withPasskey(mentor, 'my telephone');
  expect((await ownPasskeys(runtime, mentor)).map(({ name }) => name)).toEqual(['Firefox on Linux', 'my telephone']);
});

it('is asked for after a password, and a colleague’s is none', async () => {
  const [own, theirs] = [await withPasskey(), await withPasskey(lead)];
  const word = await half();
  const first = await askPasskey(runtime, HERE, word);
  expect(first.allowCredentials).toMatchObject([{ id: own.id }]);
  await expect(signInByPasskey(runtime, HERE, theirs.sign(first.challenge), FROM, word)).rejects.toThrow('passkey');
  const { token } = await signInByPasskey(runtime, HERE, own.sign(first.challenge), FROM, word);
  expect(await viewerBySession(runtime, token)).toMatchObject({ name: 'Mair Tolland' });
  await expect(askPasskey(runtime, HERE, word)).rejects.toThrow('No such sign-in');
  await expect(showCode(runtime, await half(), { code: '123456' }, FROM)).rejects.toThrow('code is not right');
  const [paper] = await newOwnPaper(runtime, mentor, { current });
  runtime.passTime(60_000);
  await showCode(runtime, await half(), { code: paper }, FROM);
});

it('signs what was asked once, in time, here, with its owner at it, and counts on', async () => {
  const own = await withPasskey();
  const { challenge } = await askPasskey(runtime, HERE);
  const answer = own.sign(challenge);
  await signInByPasskey(runtime, HERE, answer, FROM);
  await expect(signInByPasskey(runtime, HERE, answer, FROM)).rejects.toThrow('could not be checked');

  const late = await askPasskey(runtime, HERE);
  runtime.setNow('2026-11-24T09:15:01Z');
  await expect(signInByPasskey(runtime, HERE, own.sign(late.challenge), FROM)).rejects.toThrow('checked');

  const made = await askPasskey(runtime, HERE, undefined);
  await expect(
    signInByPasskey(runtime, { ...HERE, origin: 'https://evil.example' }, own.sign(made.challenge), FROM),
  ).rejects.toThrow('checked');

  own.counter = 0;
  await expect(enterWith(own)).rejects.toThrow('checked');
  const nowhere = 'never-asked-for-0000000000000000000000000000';
  await expect(signInByPasskey(runtime, HERE, own.sign(nowhere), FROM)).rejects.toThrow('checked');
  // What was asked of one who shows a second factor is not answered at the door.
  own.counter = 100;
  const asked = await askPasskey(runtime, HERE, await half());
  await expect(signInByPasskey(runtime, HERE, own.sign(asked.challenge), FROM)).rejects.toThrow('checked');
});

it('is not kept from another place, without its owner at it, for a colleague, or twice', async () => {
  const offered = async (viewer = mentor) => (await offerPasskey(runtime, viewer, HERE)).challenge;
  const keep = async (made: TestDevice, challenge: string, more: object = { current }) =>
    keepPasskey(runtime, mentor, HERE, made.make(challenge), { ...more });
  await expect(keep(device('https://evil.example'), await offered())).rejects.toThrow('checked');
  await expect(keep(device(HERE.origin, false), await offered())).rejects.toThrow('checked');
  await expect(keep(device(), await offered(lead))).rejects.toThrow('checked');
  await expect(keep(device(), await offered(), { current: 'wrong' })).rejects.toThrow('not the password you have');
  const good = device();
  await keep(good, await offered());
  await expect(keep(good, await offered())).rejects.toThrow('kept already');
  expect(await ownPasskeys(runtime, mentor)).toHaveLength(1);
});

it.each([null, 7, 'x', {}, { id: 'x' }, { id: 'x', response: null }, { id: 'x', response: { a: '<'.repeat(30_000) } }])(
  'takes %j for no answer of a device',
  async (answer) => {
    await askPasskey(runtime, HERE);
    await expect(signInByPasskey(runtime, HERE, answer, FROM)).rejects.toThrow('could not be checked');
    await expect(keepPasskey(runtime, mentor, HERE, answer, { current })).rejects.toThrow('could not be checked');
  },
);

it('of a lost telephone is taken off and lets nobody in; of an account that ended neither', async () => {
  const [lost, kept] = [await withPasskey(), await withPasskey()];
  const [{ id }] = await ownPasskeys(runtime, mentor);
  await expect(removeOwnPasskey(runtime, lead, id, { current })).rejects.toThrow('No such passkey');
  await removeOwnPasskey(runtime, mentor, id, { current });
  await expect(enterWith(lost)).rejects.toThrow('checked');
  await endStaff(runtime, lead, mentor.staffId, true);
  await expect(enterWith(kept)).rejects.toThrow('checked');
});

it('that is the last is not taken off where one’s role is asked for it', async () => {
  await withPasskey();
  await setRolesWithSecond(runtime, lead, ['mentor']);
  const [{ id }] = await ownPasskeys(runtime, mentor);
  await expect(removeOwnPasskey(runtime, mentor, id, { current })).rejects.toThrow('asked for of your role');
  expect(await ownSecond(runtime, mentor)).toMatchObject({ passkeys: 1 });
  await setRolesWithSecond(runtime, lead, []);
  await removeOwnPasskey(runtime, mentor, id, { current });
  expect(await enter(runtime, MENTOR, current)).toBeTruthy();
});

it.each([
  ['https://lee-shore.example', 'lee-shore.example', null],
  ['http://localhost:4300', 'localhost', null],
  ['http://127.0.0.1:4300', '127.0.0.1', 'Passkeys need a name in the address, not a number.'],
  ['http://[::1]:4300', '[::1]', 'Passkeys need a name in the address, not a number.'],
  ['http://lee-shore.example', 'lee-shore.example', 'Passkeys need an address that begins with https.'],
])('at %s', (origin, host, says) => expect(noPasskeysAt({ origin, host })).toBe(says));
