import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { Viewer } from '@/data/scope';
import { addAccount, makeFirstLead, signIn } from './accounts';
import { delayAfter, type SignInRefused } from './sign-in-tries';
import { signOut, viewerBySession } from './sessions';
import { bearerOf } from './bearers';
import { MINUTE } from '@/core/time/zone';
import { changeOwnPassword, endOwnSignIn, idleMinutes, ownSignIns, setIdle } from './own-account';
import { readSettings } from '../settings';
import { SMALL, bringIn, enter, signInWhole, testRuntime, type TestRuntime } from '../testing';

let runtime: TestRuntime;
const LEAD = { given_name: 'Hesper', family_name: 'Vane', email: 'lead@staff.example', password: 'a long password' };
const credentials = { email: 'Lead@Staff.example', password: 'a long password' };

beforeEach(async () => {
  runtime = await testRuntime();
});
afterEach(() => runtime.close());

describe('the first account', () => {
  it('leads and sees everyone; a second first account is refused, also at once', async () => {
    const [one, two] = await Promise.allSettled([
      makeFirstLead(runtime, LEAD),
      makeFirstLead(runtime, { ...LEAD, email: 'b@staff.example' }),
    ]);
    expect([one.status, two.status].sort()).toEqual(['fulfilled', 'rejected']);
    const email = one.status === 'fulfilled' ? LEAD.email : 'b@staff.example';
    const viewer = await viewerBySession(runtime, await enter(runtime, email, LEAD.password));
    expect(viewer).toMatchObject({ role: 'lead', all: true });
  });

  it('names every field that is wrong', async () => {
    await expect(makeFirstLead(runtime, { email: 'nonsense', password: 'short' })).rejects.toMatchObject({
      errors: [
        { field: 'given_name', message: 'is missing' },
        { field: 'email', message: 'is not an e-mail address' },
        { field: 'password', message: 'needs at least 12 characters' },
      ],
    });
  });
});

describe('signing in', () => {
  beforeEach(() => makeFirstLead(runtime, LEAD));

  const right = (address = 'here') => enter(runtime, LEAD.email, LEAD.password, address);
  const wrong = (address = 'here', email = LEAD.email) => enter(runtime, email, 'not this one', address);

  it('opens a session that signing out ends, and a new password too', async () => {
    const token = await right();
    expect(await viewerBySession(runtime, token)).toMatchObject({ name: 'Hesper Vane' });
    expect(await runtime.db('session_token').where('token_hash', token).first()).toBeUndefined();
    await signOut(runtime.db, token);
    expect(await viewerBySession(runtime, token)).toBeNull();
    const other = await right();
    expect(await addAccount(runtime, { ...LEAD, password: 'another long password' })).toBe('password set');
    expect(await viewerBySession(runtime, other)).toBeNull();
  });

  it('ends by itself after two weeks', async () => {
    const token = await right();
    runtime.setNow('2026-12-08T09:11:00Z');
    expect(await viewerBySession(runtime, token)).toBeNull();
  });

  it('waits longer after each failure, for the e-mail from that address', async () => {
    for (let i = 0; i < 3; i += 1) await expect(wrong()).rejects.toMatchObject({ wait: 0 });
    await expect(wrong()).rejects.toMatchObject({ wait: 1000 });
    await expect(right()).rejects.toThrow('Wait');
    runtime.passTime(1001);
    await expect(wrong()).rejects.toMatchObject({ wait: 2000 });
    runtime.passTime(2001);
    await right();
    await expect(wrong()).rejects.toMatchObject({ wait: 0 });
    expect([3, 4, 5, 40].map(delayAfter)).toEqual([0, 1000, 2000, 900_000]);
  });

  it('of fifty tries at once lets through as many as one after the other', async () => {
    const tries = [...Array.from({ length: 49 }, () => wrong()), right()];
    const results = await Promise.allSettled(tries);
    const waits = results.map((one) => (one.status === 'rejected' ? (one.reason as SignInRefused).wait : -1));
    expect(results.at(-1)!.status).toBe('rejected');
    // Three are free, the fourth is checked and answered with a wait; nobody else is.
    expect(waits.filter((wait) => wait === 0)).toHaveLength(3);
    expect(await runtime.db('sign_in_try').whereLike('key', 'pair:%').pluck('failures')).toEqual([4]);
  });

  it('is not kept out by others’ tries, nor by unknown addresses from behind the same gateway', async () => {
    for (let i = 0; i < 8; i += 1) await wrong('elsewhere').catch(() => undefined);
    for (let i = 0; i < 30; i += 1) await wrong('here', `nobody${i}@staff.example`).catch(() => undefined);
    await right();
  });

  it('has a limit for the whole, which a browser that is known passes', async () => {
    const first = await signInWhole(runtime, credentials, { address: 'here', browser: null, agent: '' });
    // Tries are counted by the minute of the clock: all of these are to be in one.
    runtime.passTime(MINUTE - (runtime.clock.real() % MINUTE));
    for (let i = 0; i < 70; i += 1)
      await signIn(
        runtime,
        { email: `x${i}@staff.example`, password: 'x' },
        { address: `from ${i}`, browser: null, agent: '' },
      ).catch(() => undefined);
    await expect(right('new')).rejects.toThrow('Wait');
    const again = { address: 'here', browser: first.browser, agent: '' };
    await signIn(runtime, credentials, again);
    // Known for whoever signed in in it, and for nobody else.
    await expect(signIn(runtime, { email: 'x@staff.example', password: 'x' }, again)).rejects.toThrow('Wait');
    // Wrong tries in it count for it alone.
    for (let i = 0; i < 4; i += 1)
      await signIn(runtime, { ...credentials, password: 'x' }, again).catch(() => undefined);
    await expect(signIn(runtime, credentials, again)).rejects.toThrow('Wait');
    runtime.passTime(61_000);
    await right('new');
  });

  it('tries few of many guesses at one e-mail from many addresses at once, and lets in whoever has signed in before', async () => {
    const first = await signInWhole(runtime, credentials, { address: 'here', browser: null, agent: '' });
    const guesses = Array.from({ length: 50 }, (_, i) =>
      signIn(
        runtime,
        { ...credentials, password: i === 45 ? credentials.password : `guess ${i}` },
        { address: `10.0.0.${i}`, browser: null, agent: '' },
      ).then(
        () => 'in',
        (error: Error) => (error.message.includes('Wait') ? 'waits' : 'wrong'),
      ),
    );
    const answers = await Promise.all(guesses);
    expect(answers.filter((answer) => answer === 'in')).toEqual([]);
    expect(answers.filter((answer) => answer === 'wrong').length).toBeLessThanOrEqual(11);
    // Each waits longer than the last.
    runtime.passTime(2100);
    const stranger = (password: string) =>
      signIn(runtime, { ...credentials, password }, { address: 'far', browser: null, agent: '' });
    await expect(stranger('x')).rejects.toThrow(/Wait \d+ s/);
    await expect(stranger(credentials.password)).rejects.toThrow('Wait');
    await signIn(runtime, credentials, { address: 'elsewhere', browser: first.browser, agent: '' });
    runtime.passTime(3_700_000);
    await stranger(credentials.password);
  });

  it('forgets old tries', async () => {
    await wrong().catch(() => undefined);
    runtime.passTime(25 * 3_600_000);
    await right();
    expect(await runtime.db('sign_in_try').count('* as n')).toEqual([{ n: 1 }]);
  });

  it('answers the same for somebody unknown', async () => {
    await expect(enter(runtime, 'nobody@staff.example', 'x')).rejects.toThrow('do not match');
  });
});

describe('an account', () => {
  it('of the first lead leads and sees everyone, also when the e-mail came in a staff file', async () => {
    await bringIn(runtime, 'outline', SMALL.outline);
    await bringIn(
      runtime,
      'staff',
      'staff_id,given_name,email,role,scope_kind,scope\nS1,Hesper,lead@staff.example,instructor,course,DRY\n',
    );
    await makeFirstLead(runtime, LEAD);
    const viewer = await viewerBySession(runtime, await enter(runtime, LEAD.email, LEAD.password));
    expect(viewer).toMatchObject({ role: 'lead', all: true });
    expect(await runtime.db('audit').where('what', 'set a password').first()).toMatchObject({
      subject: 'S1',
      changes: JSON.stringify({ role: ['instructor', 'lead'] }),
    });
  });

  it('of a known e-mail gets the role that is said, keeps it when none is, and never the last lead away', async () => {
    await makeFirstLead(runtime, LEAD);
    const other = { given_name: 'Mair', email: 'mair@staff.example', password: 'a long password' };
    await addAccount(runtime, { ...other, role: 'instructor' });
    await addAccount(runtime, other);
    expect(await runtime.db('staff').where('email', other.email).first('role')).toEqual({ role: 'instructor' });
    await addAccount(runtime, { ...other, role: 'lead' });
    expect(await viewerBySession(runtime, await enter(runtime, other.email, other.password))).toMatchObject({
      all: true,
    });
    await addAccount(runtime, { ...LEAD, role: 'mentor' });
    await expect(addAccount(runtime, { ...other, role: 'mentor' })).rejects.toThrow('nobody else leads');
  });

  it('is not hashed for nothing once somebody has one', async () => {
    await makeFirstLead(runtime, LEAD);
    const began = performance.now();
    const tries = Array.from({ length: 200 }, () =>
      makeFirstLead(runtime, { ...LEAD, email: 'b@staff.example' }).catch(() => null),
    );
    await Promise.all(tries);
    // Two hundred hashes would take some ten seconds.
    expect(performance.now() - began).toBeLessThan(2500);
  });
});

describe('one’s own account', () => {
  let viewer: Viewer;
  let here: string;
  beforeEach(async () => {
    await makeFirstLead(runtime, LEAD);
    here = await enter(runtime, LEAD.email, LEAD.password);
    viewer = (await viewerBySession(runtime, here))!;
  });

  it('shows the sign-ins, this one marked, and ends others', async () => {
    const firefox = { address: '::1', browser: null, agent: 'Mozilla/5.0 (X11; Linux x86_64) Firefox/140.0' };
    const { token } = await signInWhole(runtime, credentials, firefox);
    const listed = await ownSignIns(runtime, viewer, here);
    expect(listed.map((one) => [one.agent, one.here])).toEqual(
      expect.arrayContaining([
        ['Firefox on Linux', false],
        ['A browser', true],
      ]),
    );
    await endOwnSignIn(runtime, viewer, listed.find((one) => !one.here)!.handle);
    expect(await viewerBySession(runtime, token)).toBeNull();
    expect(await viewerBySession(runtime, here)).not.toBeNull();
    await expect(endOwnSignIn(runtime, { ...viewer, staffId: 99 }, listed[0].handle)).rejects.toThrow(
      'No such sign-in',
    );
  });

  it('ends a sign-in that nobody uses, by what its owner set, and an open page alone is no use', async () => {
    const start = runtime.clock.now();
    const at = (minutes: number) => ({ ...runtime, clock: { ...runtime.clock, now: () => start + minutes * MINUTE } });
    expect(await viewerBySession(at(600), here, true)).not.toBeNull();
    await expect(setIdle(runtime, viewer, { idle: '7' })).rejects.toThrow('idle is none of those offered');
    await setIdle(runtime, viewer, { idle: '30' });
    expect(await idleMinutes(runtime, viewer)).toBe('30');
    for (const minutes of [10, 20, 29]) expect(await viewerBySession(at(minutes), here, true)).not.toBeNull();
    expect(await viewerBySession(at(31), here, true)).toBeNull();
    expect(await ownSignIns(at(31), viewer, here)).toEqual([]);
    // Used at 20 minutes, it lasts until 50.
    await viewerBySession(at(20), here);
    expect(await viewerBySession(at(49), here, true)).not.toBeNull();
    expect(await viewerBySession(at(51), here, true)).toBeNull();
    await setIdle(runtime, viewer, { idle: '' });
    expect(await viewerBySession(at(600), here, true)).not.toBeNull();
  });

  it('takes a new password for the old one, and ends every other sign-in', async () => {
    const other = await enter(runtime, LEAD.email, LEAD.password);
    const change = (values: Record<string, string>) => changeOwnPassword(runtime, viewer, here, values);
    await expect(change({ current: 'not this one', password: 'a newer password' })).rejects.toThrow('current is not');
    await expect(change({ current: LEAD.password, password: 'short' })).rejects.toThrow('12 characters');
    await change({ current: LEAD.password, password: 'a newer password' });
    expect(await viewerBySession(runtime, other)).toBeNull();
    expect(await viewerBySession(runtime, here)).not.toBeNull();
    await enter(runtime, LEAD.email, 'a newer password');
  });

  it('counts wrong tries at the old password', async () => {
    const wrong = () => changeOwnPassword(runtime, viewer, here, { current: 'no', password: 'a newer password' });
    for (let i = 0; i < 4; i += 1) await wrong().catch(() => undefined);
    await expect(
      changeOwnPassword(runtime, viewer, here, { current: LEAD.password, password: 'a newer password' }),
    ).rejects.toThrow('Wait');
  });
});

it('takes the bearer token of the settings', async () => {
  const settings = { ...runtime.settings, apiToken: 'a-token-of-sixteen' };
  expect(await bearerOf({ ...runtime, settings }, 'a-token-of-sixteen')).toMatchObject({ viewer: { all: true } });
  expect(await bearerOf({ ...runtime, settings }, 'another-token-here')).toBeNull();
  expect(await bearerOf(runtime, '')).toBeNull();
});

it('settings are validated with a clear error for each', () => {
  const wrong = {
    PORT: 'x',
    LEESHORE_NOW: 'today',
    LEESHORE_TIMEZONE: 'Nowhere',
    LEESHORE_SMTP_URL: 'http://a',
    LEESHORE_API_TOKEN: 'short',
  };
  for (const name of Object.keys(wrong)) expect(() => readSettings(wrong)).toThrow(name);
  expect(readSettings({})).toMatchObject({ port: 4300, now: null, apiToken: null });
});
