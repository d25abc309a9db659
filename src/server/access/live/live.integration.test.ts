import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { LiveEvent } from '@/core/access/now';
import { withRaw } from '@/data/db';
import { eventsAfter } from '@/data/access/live';
import { eventInView, type Viewer } from '@/data/scope';
import { openLog, readLog } from '../access-log';
import { SYSTEM_VIEWER } from '@/server/system-viewer';
import { enter, bringIn, logOf, smallRuntime, viewerByEmail, type TestRuntime } from '@/server/testing';
import { signOut, viewerBySession } from '@/server/staff/sessions';
import { setNamesHidden } from '@/server/people/hidden-names';
import { NotFound } from '@/server/request/input';
import { endStaff, givePassword, giveScope } from '@/server/staff/staff-accounts';
import { openView } from '@/server/request/view';
import { LiveHub, viewerKey } from './hub';
import { liveCursors } from './cursor';
import { rightNow } from './now';
import { liveStream } from './stream';

let runtime: TestRuntime;
let hub: LiveHub;
/** Seconds after nine of the next event. */
let second = 0;
beforeEach(async () => {
  second = 0;
  runtime = await smallRuntime();
  hub = new LiveHub(runtime.db);
});
afterEach(() => runtime.close());

/** Events of these learners a moment before now. */
const arrive = (...lines: string[]) =>
  bringIn(
    runtime,
    'access-log',
    logOf(
      lines.map((line) => `${new Date(Date.parse('2026-11-24T09:00:00Z') + (second += 100)).toISOString()},${line}`),
    ),
  );

/** Reads a stream's messages until it has so many of a kind. */
async function messages(stream: ReadableStream<Uint8Array>, kind: string, count: number) {
  const reader = stream.getReader();
  const decoder = new TextDecoder();
  let text = '';
  const found = () =>
    [...text.matchAll(/(?:id: (\S+)\n)?event: (\w+)\ndata: (.*)\n\n/g)].filter((one) => one[2] === kind);
  while (found().length < count) {
    const { value, done } = await reader.read();
    if (done) break;
    text += decoder.decode(value);
  }
  await reader.cancel();
  return found().map((one) => ({ id: one[1] ?? '', events: JSON.parse(one[3]) as LiveEvent[] }));
}

const see = (viewer: Viewer, names = {}) => openView(runtime, viewer, names);

describe('the live hub', () => {
  it('sends what comes in to everybody who sees it, and looks once however many watch', async () => {
    const sent: string[][] = [[], []];
    const text = (chunk: Uint8Array) => new TextDecoder().decode(chunk);
    const everybody = await see(SYSTEM_VIEWER);
    const group = await see(await viewerByEmail(runtime, 'mentor@staff.example'));
    const ends = await Promise.all([
      hub.watch(everybody, (chunk) => sent[0].push(text(chunk))),
      hub.watch(everybody, (chunk) => sent[0].push(text(chunk))),
      hub.watch(group, (chunk) => sent[1].push(text(chunk))),
    ]);
    expect(hub.watchers).toBe(3);
    await arrive('L1,DRY,D1,opened', 'L2,DRY,D1,opened', 'S3,DRY,D1,viewed');
    await hub.look();
    expect(sent[0]).toHaveLength(2);
    expect(sent[0][0]).toContain('Ines Marrow');
    expect(sent[0][0]).toContain('Tobias Quill');
    // Staff are not people of the class.
    expect(sent[0][0]).not.toContain('Jory');
    expect(sent[1]).toHaveLength(1);
    expect(sent[1][0]).not.toContain('Tobias Quill');
    await hub.look();
    expect(sent[0]).toHaveLength(2);
    ends.forEach((end) => end());
    expect(hub.watchers).toBe(0);
  });

  it('has watchers read anew when a file brings more than people could do', async () => {
    const sent: string[] = [];
    const end = await hub.watch(await see(SYSTEM_VIEWER), (chunk) => sent.push(new TextDecoder().decode(chunk)));
    await arrive(...Array.from({ length: 1001 }, () => 'L1,DRY,D1,opened'));
    await hub.look();
    expect(sent).toHaveLength(1);
    expect(sent[0].slice(0, 40)).toContain('event: anew');
    end();
  });

  it('gives names by stand-ins where they are hidden', async () => {
    await arrive('L1,DRY,D1,opened');
    const namesHidden = { ...SYSTEM_VIEWER, standInKey: 'a key' };
    const { events } = (await hub.missed(await see(namesHidden), 0))!;
    expect(JSON.stringify(events)).not.toMatch(/Ines|Marrow|"L1"/);
    expect(events[0].learner_id).toMatch(/^c-/);
    // The page that the stream goes on from names them the same.
    const log = await readLog(runtime, await openLog(runtime, namesHidden, {}), { limit: 1 });
    expect(log.rows[0].learner_id).toBe(events[0].learner_id);
    expect(log.rows[0].name).toBe(events[0].name);
  });
});

describe('a stream', () => {
  it('begins with what was missed, and goes on with what comes', async () => {
    await arrive('L1,DRY,D1,opened', 'L2,DRY,D1,opened');
    const stream = liveStream(hub, await see(SYSTEM_VIEWER), 1);
    setTimeout(() => void arrive('L4,DRY,D2,saved').then(() => hub.look()), 50);
    const found = await messages(stream, 'events', 2);
    expect(found[0].events.map((one) => one.learner_id)).toEqual(['L2']);
    expect(found[1].events.map((one) => one.learner_id)).toEqual(['L4']);
    // Neither a place nor an event's id says how many others there have been.
    const places = await liveCursors(runtime.db);
    expect(places.open(found[1].id)).toBe(places.open(found[0].id)! + 1);
    for (const { id, events } of found) expect([id, events[0].id].join()).toMatch(/^[\w-]{22},[\w-]{22}$/);
    expect(hub.watchers).toBe(0);
  });

  it('ends once whoever opened it is signed out, ended, narrowed or has names hidden', async () => {
    await givePassword(runtime, SYSTEM_VIEWER, (await viewerByEmail(runtime, 'mentor@staff.example')).staffId, {
      password: 'long enough a word',
    });
    const changes: ((token: string, id: number) => Promise<unknown>)[] = [
      (token) => signOut(runtime.db, token),
      (_, id) => endStaff(runtime, SYSTEM_VIEWER, id, true).then(() => endStaff(runtime, SYSTEM_VIEWER, id, false)),
      (_, id) => giveScope(runtime, SYSTEM_VIEWER, id, { kind: 'course', target: 'NET' }),
      (token) => setNamesHidden(runtime, token, true),
    ];
    for (const change of changes) {
      const token = await enter(runtime, 'mentor@staff.example', 'long enough a word');
      const viewer = (await viewerBySession(runtime, token))!;
      const key = viewerKey(viewer);
      const isStill = async () => {
        const now = await viewerBySession(runtime, token);
        return now !== null && viewerKey(now) === key;
      };
      const stream = liveStream(hub, await see(viewer), null, { isStill, ask: 10 });
      setTimeout(() => void change(token, viewer.staffId), 30);
      // What is on the screen is read anew, and nothing more comes.
      expect(await messages(stream, 'anew', 2)).toHaveLength(1);
      expect(hub.watchers).toBe(0);
    }
  });

  it('ends after its longest time, and leaves nobody behind', async () => {
    const stream = liveStream(hub, await see(SYSTEM_VIEWER), null, { longest: 30 });
    expect(await messages(stream, 'events', 1)).toEqual([]);
    expect(hub.watchers).toBe(0);
  });
});

it('an event is in view by the rule of the log, for every kind of scope and part', async () => {
  await arrive(
    'L1,DRY,D1,opened',
    'L2,DRY,D1,opened',
    'L3,NET,N1,opened',
    'L1,NET,N1,opened',
    'L4,DRY,D2,saved',
    'L5,DRY,D1,opened',
    'L2,NET,N1,opened',
  );
  const rows = await withRaw(runtime.db, (raw) => eventsAfter(raw, 0, 100));
  const emails = ['mentor', 'instructor', 'one', 'lead']
    .map((name) => `${name}@staff.example`)
    .concat('norrick@partner.example');
  const parts = [{}, { course: 'DRY' }, { course: 'DRY', group: 'A' }, { organisation: 'Norrick' }];
  for (const email of emails) {
    const viewer = await viewerByEmail(runtime, email);
    for (const part of parts) {
      // A part that nobody of theirs is in does not exist for either.
      const opened = await openLog(runtime, viewer, part).catch((error: unknown) => error);
      if (opened instanceof NotFound) {
        await expect(openView(runtime, viewer, part)).rejects.toThrow(NotFound);
        expect(email).toMatch(/one@|norrick@/);
        continue;
      }
      const log = await readLog(runtime, opened as Awaited<ReturnType<typeof openLog>>, { limit: 100 });
      const view = await openView(runtime, viewer, part);
      const live = rows.filter((row) => eventInView(view, row)).map((row) => row.id);
      expect([email, part, live.sort()]).toEqual([email, part, log.rows.map((row) => row.id).sort()]);
    }
  }
});

describe('the screen of now', () => {
  it('has the hour’s events, the class, and since when it looks', async () => {
    await arrive('L1,DRY,D1,opened', 'L2,DRY,D1,opened');
    await bringIn(runtime, 'access-log', logOf(['2026-11-24T07:30:00Z,L4,DRY,D1,opened']));
    const whole = await rightNow(runtime, await see(SYSTEM_VIEWER), {});
    expect(whole.events.map((one) => one.learner_id)).toEqual(['L2', 'L1']);
    expect(whole.inClass).toBeNull();
    const group = await rightNow(runtime, await see(SYSTEM_VIEWER, { course: 'DRY', group: 'A' }), { since: '08:45' });
    expect(group.events.map((one) => one.learner_id)).toEqual(['L1']);
    expect(group.inClass!.members!.map((one) => [one.learner_id, one.first_in])).toEqual([
      ['L1', Date.parse('2026-11-24T09:00:00Z') + 100],
      ['L4', null],
    ]);
    // Whoever came more than an hour ago has come all the same.
    const early = await rightNow(runtime, await see(SYSTEM_VIEWER, { course: 'DRY', group: 'A' }), { since: '07:00' });
    expect(early.inClass!.members![1]).toMatchObject({
      learner_id: 'L4',
      first_in: Date.parse('2026-11-24T07:30:00Z'),
    });
    expect(new Date(group.since).toISOString()).toBe('2026-11-24T08:45:00.000Z');
    await expect(rightNow(runtime, await see(SYSTEM_VIEWER), { since: '8.45' })).rejects.toThrow('since is not a time');
  });

  it('counts a course of more people than a class has, and sends nobody of it', async () => {
    const rows = Array.from({ length: 301 }, (_, i) => `N${i},Given ${i},Family,n${i}@learner.example,DRY`);
    await bringIn(runtime, 'roster', ['learner_id,given_name,family_name,email,course', ...rows].join('\n'));
    const enrolled = await runtime
      .db('enrolment')
      .join('course', 'course.id', 'enrolment.course_id')
      .where({ code: 'DRY', status: 'active' });
    const { inClass } = await rightNow(runtime, await see(SYSTEM_VIEWER, { course: 'DRY' }), {});
    expect(inClass).toEqual({ members: null, size: enrolled.length });
    expect(enrolled.length).toBeGreaterThan(300);
  });

  it('looks from the beginning of a session that the outline has for now', async () => {
    await bringIn(
      runtime,
      'outline',
      'course,course_title,starts_on,ends_on,unit,item_id,item,kind,required,opens_at,due_at\nDRY,Drystone Walling,2026-09-28,2026-12-21,Week 9,S9,Tuesday session,session,no,2026-11-24T09:00:00Z,2026-11-24T10:30:00Z\n',
    );
    const now = await rightNow(runtime, await see(SYSTEM_VIEWER, { course: 'DRY' }), {});
    expect(now.session).toMatchObject({ title: 'Tuesday session' });
    expect(new Date(now.since).toISOString()).toBe('2026-11-24T09:00:00.000Z');
    // The log of this week's session time, by the same outline.
    await arrive('L1,DRY,D1,opened');
    const log = await readLog(runtime, await openLog(runtime, SYSTEM_VIEWER, { course: 'DRY', period: 'session' }), {
      limit: 10,
    });
    expect(log.rows).toHaveLength(1);
  });
});
