import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { addAccount, delayAfter, makeFirstLead, signIn, signOut, viewerByBearer, viewerBySession } from './accounts';
import { readSettings } from './settings';
import { testRuntime, type TestRuntime } from './testing';

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
    const viewer = await viewerBySession(
      runtime,
      await signIn(
        runtime,
        { ...credentials, email: one.status === 'fulfilled' ? LEAD.email : 'b@staff.example' },
        'here',
      ),
    );
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

  it('opens a session that signing out ends, and a new password too', async () => {
    const token = await signIn(runtime, credentials, 'here');
    expect(await viewerBySession(runtime, token)).toMatchObject({ name: 'Hesper Vane' });
    expect(await runtime.db('session_token').where('token_hash', token).first()).toBeUndefined();
    await signOut(runtime.db, token);
    expect(await viewerBySession(runtime, token)).toBeNull();
    const other = await signIn(runtime, credentials, 'here');
    expect(await addAccount(runtime, { ...LEAD, password: 'another long password' })).toBe('password set');
    expect(await viewerBySession(runtime, other)).toBeNull();
  });

  it('ends by itself after two weeks', async () => {
    const token = await signIn(runtime, credentials, 'here');
    runtime.setNow('2026-12-08T09:11:00Z');
    expect(await viewerBySession(runtime, token)).toBeNull();
  });

  it('waits longer after each failure, for the e-mail and for the address, right password or not', async () => {
    const wrong = { ...credentials, password: 'not this one' };
    for (let i = 0; i < 3; i += 1) await expect(signIn(runtime, wrong, 'here')).rejects.toMatchObject({ wait: 0 });
    await expect(signIn(runtime, wrong, 'here')).rejects.toMatchObject({ wait: 1000 });
    await expect(signIn(runtime, credentials, 'elsewhere')).rejects.toThrow('Wait');
    await expect(signIn(runtime, { ...credentials, email: 'x@staff.example' }, 'here')).rejects.toThrow('Wait');
    runtime.passTime(1001);
    await expect(signIn(runtime, wrong, 'elsewhere')).rejects.toMatchObject({ wait: 2000 });
    runtime.passTime(2001);
    await signIn(runtime, credentials, 'here');
    await expect(signIn(runtime, wrong, 'here')).rejects.toMatchObject({ wait: 0 });
    expect([3, 4, 5, 40].map(delayAfter)).toEqual([0, 1000, 2000, 900_000]);
  });

  it('answers the same for somebody unknown', async () => {
    await expect(signIn(runtime, { email: 'nobody@staff.example', password: 'x' }, 'a')).rejects.toThrow(
      'do not match',
    );
  });
});

it('takes the bearer token of the settings alone', () => {
  const settings = { ...runtime.settings, apiToken: 'a-token-of-sixteen' };
  expect(viewerByBearer({ ...runtime, settings }, 'a-token-of-sixteen')).toMatchObject({ all: true });
  expect(viewerByBearer({ ...runtime, settings }, 'another-token-here')).toBeNull();
  expect(viewerByBearer(runtime, '')).toBeNull();
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
