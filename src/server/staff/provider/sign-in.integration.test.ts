import { createServer } from 'node:https';
import type { AddressInfo } from 'node:net';
import { generate } from 'selfsigned';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { Viewer } from '@/data/scope';
import { enter, smallRuntime, viewerByEmail, type TestRuntime } from '../../testing';
import { askForgotten, sendLinks } from '../password-links';
import { viewerBySession } from '../sessions';
import { changeStaff, endStaff, givePassword, giveScope } from '../staff-accounts';
import { addRule, letGoOfIdentity, removeRule, rulesFor, setOnlyByProvider } from './rules';
import { comeFromProvider, goToProvider, leaveProvider } from './sign-in';
import { TestProvider, type Lies } from './test-provider';

let runtime: TestRuntime;
let provider: TestProvider;
let lead: Viewer;
let mentor: Viewer;
const URL_ = 'https://lee-shore.example';
const MENTOR = 'mentor@staff.example';
const FROM = { address: '::1', browser: null, agent: '' };
const MAIR = { sub: 'mair-1', email: MENTOR, email_verified: true, name: 'Mair Tolland', groups: ['staff'] };
const NEW = {
  sub: 'new-1',
  email: 'new@staff.example',
  email_verified: true,
  given_name: 'Petra',
  family_name: 'Sandoval',
};

beforeEach(async () => {
  provider = await TestProvider.start();
  const opened = await smallRuntime();
  runtime = { ...opened, settings: { ...opened.settings, url: URL_, provider: provider.settings() } };
  lead = await viewerByEmail(runtime, 'lead@staff.example');
  mentor = await viewerByEmail(runtime, MENTOR);
});
afterEach(async () => {
  await runtime.close();
  await provider.stop();
});

/** The whole way: there, signed in as somebody, and back. */
async function signIn(claims: object, lies: Partial<Lies> = {}): Promise<Viewer> {
  const { to, state } = await goToProvider(runtime);
  const { token } = await comeFromProvider(runtime, provider.signIn(to, claims, lies), state, FROM);
  return (await viewerBySession(runtime, token))!;
}

describe('signing in by a provider', () => {
  it('sends there with state, nonce and PKCE, and lets in whom it vouches for by e-mail', async () => {
    const { to } = await goToProvider(runtime);
    const asked = new URL(to).searchParams;
    expect(asked.get('redirect_uri')).toBe(`${URL_}/sign-in/provider/back`);
    expect(asked.get('code_challenge_method')).toBe('S256');
    for (const name of ['state', 'nonce', 'code_challenge']) expect(asked.get(name)!.length).toBeGreaterThan(30);
    expect(await signIn(MAIR)).toMatchObject({ staffId: mentor.staffId, role: 'mentor', groups: mentor.groups });
    // From now on it goes by the provider's own word, whatever e-mail it has.
    expect(await signIn({ ...MAIR, email: 'married@staff.example' })).toMatchObject({ staffId: mentor.staffId });
    expect(await signIn({ ...MAIR, email_verified: false })).toMatchObject({ staffId: mentor.staffId });
  });

  it.each([false, 'true', undefined])(
    'takes an e-mail for nobody’s that is vouched for as %j',
    async (email_verified) => {
      await expect(signIn({ ...MAIR, email_verified })).rejects.toThrow('does not vouch for your e-mail');
    },
  );

  it('asks for e-mail and name where the token has none, and believes it of the same one alone', async () => {
    expect(await signIn(MAIR, { small: true })).toMatchObject({ staffId: mentor.staffId });
    await expect(signIn(MAIR, { small: true, otherSub: 'somebody' })).rejects.toThrow('could not be trusted');
  });

  it.each<[string, Partial<Lies>]>([
    ['signed by nobody', { alg: 'none' }],
    ['signed with the client’s secret', { alg: 'HS256' }],
    ['signed with a key of somebody else', { foreignKey: true }],
    ['for another audience', { aud: 'another-program' }],
    ['of another issuer', { iss: 'https://evil.example' }],
    ['of another sign-in', { nonce: 'another' }],
    ['that has run out', { off: -400 }],
    ['of tomorrow', { off: 86_400 }],
  ])('believes no token %s', async (_, lies) => {
    await expect(signIn(MAIR, lies)).rejects.toThrow('could not be trusted');
    expect(await runtime.db('identity').select('*')).toEqual([]);
  });

  it.each([-120, 120])('allows for a clock that is off by %d seconds', async (off) => {
    expect(await signIn(MAIR, { off })).toMatchObject({ staffId: mentor.staffId });
  });

  it('follows keys that change, at any moment', async () => {
    await signIn(MAIR);
    await provider.rotate();
    expect(await signIn(MAIR)).toMatchObject({ staffId: mentor.staffId });
    await provider.rotate();
    expect(await signIn(MAIR)).toMatchObject({ staffId: mentor.staffId });
  });

  it('lets each sign-in in once, in its own browser and in time', async () => {
    const { to, state } = await goToProvider(runtime);
    const query = provider.signIn(to, MAIR);
    await expect(comeFromProvider(runtime, query, undefined, FROM)).rejects.toThrow('begun elsewhere');
    await expect(comeFromProvider(runtime, query, 'of-another-browser', FROM)).rejects.toThrow('begun elsewhere');
    await comeFromProvider(runtime, query, state, FROM);
    await expect(comeFromProvider(runtime, query, state, FROM)).rejects.toThrow('is over');

    // A code of somebody else, put into one's own sign-in.
    const [one, two] = [await goToProvider(runtime), await goToProvider(runtime)];
    const theirs = provider.signIn(one.to, NEW);
    theirs.set('state', two.state);
    await expect(comeFromProvider(runtime, theirs, two.state, FROM)).rejects.toThrow('did not let you in');

    const late = await goToProvider(runtime);
    runtime.setNow('2026-11-24T09:20:01Z');
    await expect(comeFromProvider(runtime, provider.signIn(late.to, MAIR), late.state, FROM)).rejects.toThrow(
      'is over',
    );
  });

  it('says so where the provider refuses, is away, or comes back', async () => {
    const { to, state } = await goToProvider(runtime);
    const query = provider.signIn(to, MAIR);
    query.delete('code');
    query.set('error', 'access_denied');
    await expect(comeFromProvider(runtime, query, state, FROM)).rejects.toThrow('did not let you in');
    await provider.stop();
    const away = await TestProvider.start();
    const settings = { ...runtime.settings, provider: away.settings() };
    await away.stop();
    await expect(goToProvider({ ...runtime, settings })).rejects.toThrow('does not answer');
    provider = await TestProvider.start();
    runtime = { ...runtime, settings: { ...runtime.settings, provider: provider.settings() } };
    expect(await signIn(MAIR)).toMatchObject({ staffId: mentor.staffId });
  });

  it('asks no provider whose certificate has run out or is nobody’s', async () => {
    const [notBeforeDate, notAfterDate] = [new Date('2024-01-01'), new Date('2024-02-01')];
    const { private: key, cert } = await generate(undefined, { notBeforeDate, notAfterDate });
    const server = createServer({ key, cert }, (_, response) => response.end('{}'));
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    const issuer = `https://127.0.0.1:${(server.address() as AddressInfo).port}`;
    const settings = { ...runtime.settings, provider: { ...provider.settings(), issuer } };
    await expect(goToProvider({ ...runtime, settings })).rejects.toThrow('does not answer');
    await new Promise((resolve) => server.close(resolve));
  });

  it('tells of a second one with that e-mail, of a word that changed, and of an account that ended', async () => {
    await signIn(MAIR);
    await expect(signIn({ ...MAIR, sub: 'mair-2' })).rejects.toThrow('knows you by another name');
    await expect(letGoOfIdentity(runtime, mentor, mentor.staffId)).rejects.toThrow('found here');
    await letGoOfIdentity(runtime, lead, mentor.staffId);
    expect(await signIn({ ...MAIR, sub: 'mair-2' })).toMatchObject({ staffId: mentor.staffId });
    await expect(signIn(MAIR)).rejects.toThrow('knows you by another name');

    await endStaff(runtime, lead, mentor.staffId, true);
    await expect(signIn({ ...MAIR, sub: 'mair-2' })).rejects.toThrow('has ended');
  });

  it('signs out at the provider too, where it offers that', async () => {
    expect(await leaveProvider(runtime)).toMatch(new RegExp(`^${provider.issuer}/end\\?post_logout_redirect_uri=`));
    expect(await leaveProvider({ ...runtime, settings: { ...runtime.settings, provider: null } })).toBeNull();
  });
});

describe('claims', () => {
  const rule = (value: string, gives: string, target = '') =>
    addRule(runtime, lead, { claim: 'groups', value, gives, target });

  it('bring in somebody whom nobody knows, with role and scope; without a role they stay outside', async () => {
    await expect(signIn(NEW)).rejects.toThrow('You have no account here');
    await rule('walling', 'scope course', 'DRY');
    await expect(signIn({ ...NEW, groups: ['walling'] })).rejects.toThrow('You have no account here');
    await rule('tutors', 'role instructor');
    const viewer = await signIn({ ...NEW, groups: ['walling', 'tutors'] });
    expect(viewer).toMatchObject({ role: 'instructor', all: false, name: 'Petra Sandoval' });
    expect(viewer.courses).toHaveLength(1);
    // What a claim gave goes with it; the role stays until another is given.
    expect(await signIn({ ...NEW, groups: [] })).toMatchObject({ role: 'instructor', courses: [] });
  });

  it('leave what was given by hand, and give nothing for what is not there any more', async () => {
    await rule('staff', 'scope group', 'NET/A');
    await rule('staff', 'role instructor');
    await giveScope(runtime, lead, mentor.staffId, { kind: 'course', target: 'DRY' });
    expect(await signIn(MAIR)).toMatchObject({ role: 'instructor' });
    const now = await viewerByEmail(runtime, MENTOR);
    expect([now.groups.length, now.courses.length]).toEqual([mentor.groups.length + 1, 1]);
    await runtime.db('course_group').where('name', 'A').update({ name: 'Z' });
    const after = await signIn(MAIR);
    expect([after.groups.length, after.courses.length]).toEqual([mentor.groups.length, 1]);
  });

  it('never take the last lead away', async () => {
    await givePassword(runtime, lead, lead.staffId, { password: 'a long password' });
    await rule('staff', 'role mentor');
    const hesper = await signIn({ ...MAIR, sub: 'hesper', email: 'lead@staff.example' });
    expect(hesper).toMatchObject({ staffId: lead.staffId, role: 'lead', all: true });
    expect(await viewerByEmail(runtime, 'lead@staff.example')).toMatchObject({ role: 'lead', all: true });
  });

  it('are set by leads alone, once each, for what there is', async () => {
    await rule('staff', 'scope all');
    await expect(rule('staff', 'scope all')).rejects.toThrow('gives that already');
    await expect(rule('staff', 'scope course', 'NOWHERE')).rejects.toThrow('is no course that is known');
    await expect(rule('staff', 'scope learner', 'L1')).rejects.toThrow('neither a role nor a scope');
    await expect(rule('', 'king')).rejects.toThrow('value is missing');
    await expect(addRule(runtime, mentor, {})).rejects.toThrow('found here');
    const [{ id }] = await rulesFor(runtime, lead);
    await removeRule(runtime, lead, id);
    await expect(removeRule(runtime, lead, id)).rejects.toThrow('No such rule');
  });
});

describe('everybody by the provider', () => {
  const password = 'a long password';
  beforeEach(async () => {
    for (const { staffId } of [lead, mentor]) await givePassword(runtime, lead, staffId, { password });
  });

  it('lets in one lead alone with a password, and ends what others had signed in with theirs', async () => {
    const before = await enter(runtime, MENTOR, password);
    const byProvider = await signIn(MAIR);
    await setOnlyByProvider(runtime, lead, String(lead.staffId));
    expect(await viewerBySession(runtime, before)).toBeNull();
    await expect(enter(runtime, MENTOR, password)).rejects.toThrow('do not match');
    expect(await enter(runtime, 'lead@staff.example', password)).toBeTruthy();
    expect(byProvider.staffId).toBe(mentor.staffId);
    expect(await runtime.db('session_token').where({ staff_id: mentor.staffId }).count({ n: '*' }).first()).toEqual({
      n: 1,
    });
    const sent: unknown[] = [];
    await askForgotten(runtime, { email: MENTOR });
    await sendLinks(runtime, async (mail) => void sent.push(mail));
    expect(sent).toEqual([]);
    await setOnlyByProvider(runtime, lead, '');
    expect(await enter(runtime, MENTOR, password)).toBeTruthy();
  });

  it('keeps that lead: they cannot be ended, or lead no more', async () => {
    const other = await viewerByEmail(runtime, 'instructor@staff.example');
    await givePassword(runtime, lead, other.staffId, { password });
    await changeStaff(runtime, lead, other.staffId, {
      given_name: 'Jory',
      email: 'instructor@staff.example',
      role: 'lead',
    });
    await giveScope(runtime, lead, other.staffId, { kind: 'all' });
    await setOnlyByProvider(runtime, lead, String(lead.staffId));
    await expect(endStaff(runtime, lead, lead.staffId, true)).rejects.toThrow('kept for emergencies');
    const mentorNow = { given_name: 'Hesper', email: 'lead@staff.example', role: 'mentor' };
    await expect(changeStaff(runtime, lead, lead.staffId, mentorNow)).rejects.toThrow('kept for emergencies');
    await setOnlyByProvider(runtime, lead, String(other.staffId));
    await changeStaff(runtime, lead, lead.staffId, mentorNow);
  });

  it('is set by leads, with a provider, for somebody who leads with a password', async () => {
    for (const sent of [String(mentor.staffId), '999', 'x', '<'])
      await expect(setOnlyByProvider(runtime, lead, sent)).rejects.toThrow('nobody who leads');
    await expect(setOnlyByProvider(runtime, mentor, String(mentor.staffId))).rejects.toThrow('found here');
    const settings = { ...runtime.settings, provider: null };
    await expect(setOnlyByProvider({ ...runtime, settings }, lead, String(lead.staffId))).rejects.toThrow(
      'LEESHORE_OIDC_ISSUER',
    );
  });
});
