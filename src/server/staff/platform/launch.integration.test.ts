import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { Viewer } from '@/data/scope';
import { bringIn, smallRuntime, viewerByEmail, type TestRuntime } from '../../testing';
import { viewerBySession } from '../sessions';
import { endStaff, giveScope } from '../staff-accounts';
import { beginLaunch, takeLaunch } from './launch';
import { addPlatformBy, connectCourse, endPlatform, platformsFor } from './platforms';
import { INSTRUCTOR, LEARNER, TestPlatform, type Lies } from './test-platform';

let runtime: TestRuntime;
let platform: TestPlatform;
let lead: Viewer;
let mentor: Viewer;
let platformId: number;
const FROM = { address: '::1', browser: null, agent: '' };
const CLAIM = 'https://purl.imsglobal.org/spec/lti/claim';
const MAIR = { sub: 'u1', email: 'mentor@staff.example', name: 'Mair Tolland' };
const NEW = { sub: 'u2', email: 'petra@staff.example', given_name: 'Petra', family_name: 'Sandoval' };

beforeEach(async () => {
  platform = await TestPlatform.start();
  const opened = await smallRuntime();
  runtime = { ...opened, settings: { ...opened.settings, url: 'https://lee-shore.example', allowPrivate: true } };
  lead = await viewerByEmail(runtime, 'lead@staff.example');
  mentor = await viewerByEmail(runtime, 'mentor@staff.example');
  platformId = await addPlatformBy(runtime, lead, platform.settings());
});
afterEach(async () => {
  await runtime.close();
  await platform.stop();
});

const begin = (more: Record<string, string> = {}) =>
  beginLaunch(runtime, {
    iss: platform.settings().issuer,
    login_hint: 'h',
    target_link_uri: 'https://lee-shore.example/lti/launch',
    ...more,
  });

async function launch(somebody: Record<string, unknown>, lies: Partial<Lies> = {}) {
  const { to, state } = await begin();
  return takeLaunch(runtime, await platform.launch(to, somebody, lies), state, FROM);
}

async function comesAs(somebody: Record<string, unknown>, lies: Partial<Lies> = {}): Promise<Viewer> {
  const { signedIn } = await launch(somebody, lies);
  return (await viewerBySession(runtime, signedIn!.token))!;
}

/** The course that people come from is DRY here. */
async function connect(code = 'DRY'): Promise<void> {
  const { courses } = await platformsFor(runtime, lead);
  await connectCourse(runtime, lead, courses[0].id, code);
}

describe('a launch from a platform', () => {
  it('is asked of the platform at the address that is known of it, and lets in whom it vouches for', async () => {
    const { to, state } = await begin({ lti_message_hint: 'm', client_id: 'tool-1' });
    const { origin, pathname, searchParams } = new URL(to);
    expect(origin + pathname).toBe(`${platform.origin}/auth`);
    expect(Object.fromEntries(searchParams)).toMatchObject({
      ...{ scope: 'openid', response_type: 'id_token', response_mode: 'form_post', prompt: 'none' },
      ...{ client_id: 'tool-1', login_hint: 'h', lti_message_hint: 'm', state },
      redirect_uri: 'https://lee-shore.example/lti/launch',
    });
    expect(await comesAs(MAIR)).toMatchObject({ staffId: mentor.staffId, role: 'mentor', courses: mentor.courses });
    // From now on it goes by the platform's own word.
    expect(await comesAs({ ...MAIR, email: 'other@staff.example' })).toMatchObject({ staffId: mentor.staffId });
  });

  it.each<[string, Partial<Lies>]>([
    ['signed by nobody', { alg: 'none' }],
    ['signed with what everybody knows', { alg: 'HS256' }],
    ['signed with a key of somebody else', { foreignKey: true }],
    ['for another audience', { aud: 'another' }],
    ['for several audiences, made for another', { aud: ['tool-1', 'another'], azp: 'another' }],
    ['for several audiences, made for nobody', { aud: ['tool-1', 'another'] }],
    ['of another issuer', { iss: 'https://evil.example' }],
    ['of another launch', { nonce: 'another' }],
    ['that has run out', { off: -500 }],
    ['that is an hour old and never runs out', { off: -3600, claims: { exp: 9_999_999_999 } }],
    ['of tomorrow', { off: 86_400 }],
    ['of nobody', { claims: { sub: '' } }],
  ])('believes no token %s', async (_, lies) => {
    await expect(launch(MAIR, lies)).rejects.toThrow('could not be trusted');
    expect(await runtime.db('identity').select('*')).toEqual([]);
  });

  it.each([-120, 120])('allows for a clock that is off by %d seconds', async (off) => {
    expect(await comesAs(MAIR, { off, aud: ['tool-1', 'another'], azp: 'tool-1' })).toMatchObject({
      staffId: mentor.staffId,
    });
  });

  it('follows keys that change', async () => {
    await comesAs(MAIR);
    await platform.rotate();
    expect(await comesAs(MAIR)).toMatchObject({ staffId: mentor.staffId });
  });

  it('is taken once, in its own browser and in time', async () => {
    const { to, state } = await begin();
    const sent = await platform.launch(to, MAIR);
    await expect(takeLaunch(runtime, sent, undefined, FROM)).rejects.toThrow('begun elsewhere');
    await expect(takeLaunch(runtime, sent, 'of-another-browser', FROM)).rejects.toThrow('begun elsewhere');
    await takeLaunch(runtime, sent, state, FROM);
    await expect(takeLaunch(runtime, sent, state, FROM)).rejects.toThrow('is over');

    // The token of one launch, sent with the state of another.
    const [one, two] = [await begin(), await begin()];
    const { id_token } = await platform.launch(one.to, MAIR);
    await expect(takeLaunch(runtime, { id_token, state: two.state }, two.state, FROM)).rejects.toThrow('trusted');

    const late = await begin();
    const lateSent = await platform.launch(late.to, MAIR);
    runtime.setNow('2026-11-24T09:20:01Z');
    await expect(takeLaunch(runtime, lateSent, late.state, FROM)).rejects.toThrow('is over');
  });

  it('tells what is missing, and of what is not known', async () => {
    await expect(beginLaunch(runtime, { iss: 'https://campus.example' })).rejects.toThrow('login_hint is missing');
    await expect(begin({ iss: 'https://another.example' })).rejects.toThrow('not known here');
    await expect(begin({ client_id: 'another' })).rejects.toThrow('not known here');
    await expect(launch({ ...MAIR, [`${CLAIM}/deployment_id`]: 'd9' })).rejects.toThrow('deployment d9');
    await expect(launch({ ...MAIR, [`${CLAIM}/version`]: '1.0' })).rejects.toThrow('sends is of no version');
    const { state } = await begin();
    await expect(takeLaunch(runtime, { error: 'login_required', state }, state, FROM)).rejects.toThrow(
      'did not let you',
    );
    platform.answers.set('/keys', { status: 500, body: '' });
    await platform.rotate();
    await expect(launch(MAIR)).rejects.toThrow('answers 500');
  });

  it('takes an e-mail for nobody’s that nobody vouches for', async () => {
    await endPlatform(runtime, lead, platformId);
    await addPlatformBy(runtime, lead, { ...platform.settings(), vouches_for_email: 'no' });
    await expect(launch(MAIR)).rejects.toThrow('does not vouch');
    expect(await comesAs({ ...MAIR, email_verified: true })).toMatchObject({ staffId: mentor.staffId });
  });

  it('never lets somebody in who leads, or whose account has ended', async () => {
    expect(await launch({ ...MAIR, sub: 'u9', email: 'lead@staff.example' })).toMatchObject({ signedIn: null });
    await comesAs(MAIR);
    await endStaff(runtime, lead, mentor.staffId, true);
    await expect(launch(MAIR)).rejects.toThrow('has ended');
  });
});

describe('what a launch gives', () => {
  it('is the course, once a lead has said which it is: its own name proves nothing', async () => {
    expect(await launch(NEW)).toMatchObject({ course: null, title: 'Drystone walling' });
    expect(await viewerByEmail(runtime, NEW.email)).toMatchObject({ role: 'instructor', courses: [], all: false });
    await connect();
    expect(await launch(NEW)).toMatchObject({ course: 'DRY' });
    const [course] = (await viewerByEmail(runtime, NEW.email)).courses;
    expect(await runtime.db('course').where('id', course).first('code')).toEqual({ code: 'DRY' });
    // What another calls its course after it is another course.
    const other = { [`${CLAIM}/context`]: { id: 'c8', label: 'DRY', title: 'Drystone walling' } };
    expect(await launch({ ...NEW, sub: 'u3', email: 'third@staff.example', ...other })).toMatchObject({ course: null });
    expect(await viewerByEmail(runtime, 'third@staff.example')).toMatchObject({ courses: [] });
  });

  it('goes with the part there, the course and the platform; what was given by hand stays', async () => {
    await launch(NEW);
    await connect();
    await launch(NEW);
    await giveScope(runtime, lead, mentor.staffId, { kind: 'course', target: 'DRY' });
    await launch(MAIR);
    const seen = async (email: string) => (await viewerByEmail(runtime, email)).courses.length;
    expect([await seen(NEW.email), await seen(MAIR.email)]).toEqual([1, 1]);
    const learns = { [`${CLAIM}/roles`]: [LEARNER] };
    for (const one of [NEW, MAIR]) await expect(launch({ ...one, ...learns })).rejects.toThrow('for those who teach');
    expect([await seen(NEW.email), await seen(MAIR.email)]).toEqual([0, 1]);
    await launch(NEW);
    await connect('NET');
    expect([await seen(NEW.email), await seen(MAIR.email)]).toEqual([0, 1]);
    await launch(NEW);
    expect(await seen(NEW.email)).toBe(1);
    await endPlatform(runtime, lead, platformId);
    expect([await seen(NEW.email), await seen(MAIR.email)]).toEqual([0, 1]);
    expect(await runtime.db('identity').select('*')).toEqual([]);
  });

  it('is each course’s own there: what another that is the same here gave stays', async () => {
    const another = { [`${CLAIM}/context`]: { id: 'c8', label: 'W', title: 'Walls' } };
    const third = { ...NEW, sub: 'u7', email: 'third@staff.example', ...another };
    for (const one of [NEW, third]) await launch(one);
    const { courses } = await platformsFor(runtime, lead);
    expect(courses).toHaveLength(2);
    for (const { id } of courses) await connectCourse(runtime, lead, id, 'DRY');
    for (const one of [NEW, third]) await launch(one);
    const seen = async (email: string) => (await viewerByEmail(runtime, email)).courses.length;
    expect([await seen(NEW.email), await seen(third.email)]).toEqual([1, 1]);
    const walls = courses.find(({ title }) => title === 'Walls')!;
    await connectCourse(runtime, lead, walls.id, '');
    expect([await seen(NEW.email), await seen(third.email)]).toEqual([1, 0]);
  });

  it('stays once a person has given it, by hand or by file', async () => {
    await launch(NEW);
    await connect();
    await launch(NEW);
    const third = { ...NEW, sub: 'u7', email: 'third@staff.example' };
    await launch(third);
    const { staffId } = await viewerByEmail(runtime, NEW.email);
    await giveScope(runtime, lead, staffId, { kind: 'course', target: 'DRY' });
    const { external_id } = (await runtime.db('staff').where('email', third.email).first('external_id'))!;
    const heading = 'staff_id,given_name,family_name,email,role,scope_kind,scope';
    const row = `${external_id},Petra,Sandoval,${third.email},instructor,course,DRY`;
    expect(await bringIn(runtime, 'staff', `${heading}\n${row}\n`)).toMatchObject({ accepted: 1 });
    await endPlatform(runtime, lead, platformId);
    const seen = async (email: string) => (await viewerByEmail(runtime, email)).courses.length;
    expect([await seen(NEW.email), await seen(third.email)]).toEqual([1, 1]);
  });

  it('is nothing for learners, administrators and partners’ contacts', async () => {
    await launch(NEW);
    await connect();
    const as = (roles: string[]) => ({
      sub: 'u4',
      email: 'fourth@staff.example',
      name: 'D',
      [`${CLAIM}/roles`]: roles,
    });
    const admin = 'http://purl.imsglobal.org/vocab/lis/v2/institution/person#Administrator';
    await expect(launch(as([LEARNER]))).rejects.toThrow('for those who teach');
    await expect(launch(as([admin]))).rejects.toThrow('gives you none');
    await runtime.db('staff').where('id', mentor.staffId).update({ role: 'coordinator' });
    expect(await comesAs({ ...MAIR, [`${CLAIM}/roles`]: [INSTRUCTOR] })).toMatchObject({ courses: mentor.courses });
  });
});

describe('platforms', () => {
  it('are set by leads alone, at addresses that may be asked', async () => {
    await expect(platformsFor(runtime, mentor)).rejects.toThrow('found here');
    await expect(addPlatformBy(runtime, mentor, platform.settings())).rejects.toThrow('found here');
    await expect(addPlatformBy(runtime, lead, platform.settings())).rejects.toThrow('another’s already');
    await expect(addPlatformBy(runtime, lead, { ...platform.settings(), name: 'B' })).rejects.toThrow(
      'known as Campus',
    );
    const bad = { ...platform.settings(), name: 'C', client_id: 'c' };
    await expect(addPlatformBy(runtime, lead, { ...bad, keys_url: 'http://campus.example/keys' })).rejects.toThrow(
      'https',
    );
    await expect(addPlatformBy(runtime, lead, { ...bad, login_url: 'x' })).rejects.toThrow('is not an address');
    await expect(addPlatformBy(runtime, lead, { ...bad, deployments: ' , ' })).rejects.toThrow('deployments are none');
    await expect(addPlatformBy(runtime, lead, { ...bad, name: 'a:b' })).rejects.toThrow('has a colon');
    const settings = { ...runtime.settings, allowPrivate: false };
    await expect(addPlatformBy({ ...runtime, settings }, lead, bad)).rejects.toThrow('https://');
    await expect(connectCourse(runtime, lead, 99, 'DRY')).rejects.toThrow('No such course');
    await launch(NEW);
    await expect(connect('NOWHERE')).rejects.toThrow('is no course');
    await endPlatform(runtime, lead, platformId);
    await expect(endPlatform(runtime, lead, platformId)).rejects.toThrow('No such platform');
    await expect(begin()).rejects.toThrow('not known here');
  });
});
