import { afterEach, beforeEach, expect, it } from 'vitest';
import type { Viewer } from '@/data/scope';
import { bringIn, smallRuntime, takeIn, viewerByEmail, type TestRuntime } from '../../testing';
import { ownKeySet } from './keys';
import { beginLaunch, takeLaunch } from './launch';
import { addPlatformBy, connectCourse, platformsFor, readRosterSoon } from './platforms';
import { readDueRoster } from './rosters';
import { INSTRUCTOR, LEARNER, TestPlatform, type Member } from './test-platform';

let runtime: TestRuntime;
let platform: TestPlatform;
let lead: Viewer;

const member = (n: number, more: Partial<Member> = {}): Member => ({
  user_id: String(n),
  roles: [LEARNER],
  given_name: `Given${n}`,
  family_name: 'Sandoval',
  email: `u${n}@learners.example`,
  ...more,
});

beforeEach(async () => {
  platform = await TestPlatform.start();
  const opened = await smallRuntime();
  runtime = { ...opened, settings: { ...opened.settings, url: 'https://lee-shore.example', allowPrivate: true } };
  platform.toolKeys = await ownKeySet(runtime);
  lead = await viewerByEmail(runtime, 'lead@staff.example');
  await addPlatformBy(runtime, lead, platform.settings());
  const { to, state } = await beginLaunch(runtime, {
    iss: 'https://campus.example',
    login_hint: 'h',
    target_link_uri: 'x',
  });
  const sent = await platform.launch(to, { sub: 'u1', email: 'mentor@staff.example' });
  await takeLaunch(runtime, sent, state, { address: '::1', browser: null, agent: '' });
});
afterEach(async () => {
  await runtime.close();
  await platform.stop();
});

const own = async () => (await platformsFor(runtime, lead)).courses[0];
const connect = async () => connectCourse(runtime, lead, (await own()).id, 'DRY');
/** Those who are in the course by the platform's numbers. */
const enrolled = () =>
  runtime
    .db('enrolment as e')
    .join('learner as l', 'l.id', 'e.learner_id')
    .join('course as c', 'c.id', 'e.course_id')
    .where('c.code', 'DRY')
    .whereLike('l.external_id', 'Campus:%')
    .orderBy('l.external_id')
    .select('l.external_id', 'l.given_name', 'e.status');

it('is read from every page, by our own key, like a file; those who are gone have left', async () => {
  platform.members = [
    ...[1, 2, 3, 4].map((n) => member(n)),
    member(5, { roles: [INSTRUCTOR] }),
    member(6, { lis_person_sourcedid: 'S-6' }),
    member(7, { status: 'Inactive' }),
  ];
  expect(await readDueRoster(runtime)).toBe(false);
  await connect();
  expect(await readDueRoster(runtime)).toBe(true);
  expect(await readDueRoster(runtime)).toBe(false);
  await takeIn(runtime);
  expect(await own()).toMatchObject({ course: 'DRY', read_error: null, read_at: runtime.clock.now() });
  const statuses = async () => (await enrolled()).map(({ external_id, status }) => `${external_id} ${status}`);
  expect(await statuses()).toEqual([1, 2, 3, 4].map((n) => `Campus:${n} active`));
  expect(await runtime.db('learner').where('external_id', 'S-6').first('given_name')).toEqual({ given_name: 'Given6' });

  platform.members = [member(1), member(2, { given_name: 'Anew' }), member(3, { roles: [INSTRUCTOR] })];
  await readRosterSoon(runtime, lead, (await own()).id);
  expect(await readDueRoster(runtime)).toBe(true);
  await takeIn(runtime);
  expect(await statuses()).toEqual([
    'Campus:1 active',
    'Campus:2 active',
    ...[3, 4].map((n) => `Campus:${n} withdrawn`),
  ]);
  expect((await enrolled())[1].given_name).toBe('Anew');
  // Those of the file that came before are no business of the platform's.
  expect(await runtime.db('enrolment').where('status', 'active').count({ n: '*' }).first()).not.toEqual({ n: 2 });
});

it('says again each day what nobody has to be told twice, and undoes nothing that was settled here', async () => {
  platform.members = [member(1), member(2), member(3)];
  await connect();
  const again = async () => {
    await readRosterSoon(runtime, lead, (await own()).id);
    await readDueRoster(runtime);
    await takeIn(runtime);
    return (await enrolled()).map(({ status }) => status);
  };
  expect(await again()).toEqual(['active', 'active', 'active']);
  await bringIn(
    runtime,
    'roster',
    'learner_id,given_name,course,status\nCampus:1,G,DRY,withdrawn\nCampus:2,G,DRY,completed\n',
  );
  expect(await again()).toEqual(['withdrawn', 'completed', 'active']);
  // They go over there, and come back.
  platform.members = [member(3)];
  expect(await again()).toEqual(['withdrawn', 'completed', 'active']);
  platform.members = [member(1), member(2), member(3, { status: 'Inactive' }), member(4)];
  expect(await again()).toEqual(['active', 'completed', 'withdrawn', 'active']);
  expect(JSON.stringify(await runtime.db('platform_course').select('*'))).not.toContain('Campus:');
});

it.each([
  ['/token', { status: 400, body: '{}' }, 'answers 400'],
  ['/token', { status: 200, body: '{}' }, 'gives no word'],
  ['/members', { status: 200, body: '<html>' }, 'no JSON'],
  ['/members', { status: 200, body: '{"members":{}}' }, 'no list of members'],
  ['/members', { status: 302, body: '', link: '' }, 'answers 302'],
  ['/members', { status: 200, body: '{"members":[]}' }, 'names no learners'],
])('changes nobody where %s answers %j', async (path, answer, says) => {
  platform.members = [member(1)];
  await connect();
  await readDueRoster(runtime);
  await takeIn(runtime);
  platform.answers.set(path, answer);
  await readRosterSoon(runtime, lead, (await own()).id);
  await readDueRoster(runtime);
  await takeIn(runtime);
  expect((await own()).read_error).toContain(says);
  expect(await enrolled()).toMatchObject([{ status: 'active' }]);
  // It is tried again by itself, not at once.
  expect(await readDueRoster(runtime)).toBe(false);
  runtime.setNow('2026-11-24T10:20:00Z');
  platform.answers.clear();
  expect(await readDueRoster(runtime)).toBe(true);
  expect((await own()).read_error).toBeNull();
});

it('asks no other server, follows a page to none, and is read where there is something to read', async () => {
  await expect(readRosterSoon(runtime, lead, (await own()).id)).rejects.toThrow('no roster that can be read');
  await connect();
  await runtime.db('platform_course').update({ members_url: 'https://other.example/members' });
  await readDueRoster(runtime);
  expect((await own()).read_error).toBe('keeps its members with another server');
  expect(platform.asked).not.toContain('/token');
  await runtime.db('platform_course').update({ members_url: `${platform.origin}/members` });
  const body = JSON.stringify({ members: [member(1)] });
  platform.answers.set('/members', { status: 200, body, link: '<https://other.example/2>; rel="next"' });
  await readRosterSoon(runtime, lead, (await own()).id);
  await readDueRoster(runtime);
  expect((await own()).read_error).toBeNull();
});

it('is read by one of two processes', async () => {
  platform.members = [member(1)];
  await connect();
  const done = await Promise.all([readDueRoster(runtime), readDueRoster(runtime)]);
  expect(done.filter(Boolean)).toHaveLength(1);
});
