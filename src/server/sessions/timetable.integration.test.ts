import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { convertIcsCalendar } from 'ts-ics';
import { checkAll } from '../check';
import { enterBreak } from '../courses/calendar';
import { askList, bringIn, counts } from '../testing';
import { removeFeed, makeFeed, readFeed } from './feeds';
import { takePresence } from './presence';
import { giveMarks } from './roll';
import { SESSIONS } from './sessions-list';
import { openCast, SESSIONS_FILE, type Cast } from './testing';
import { planningChoices } from './planning-form';
import {
  cancelSessions,
  changeSession,
  deleteSessions,
  reinstateSessions,
  planSessions,
  undoPlanning,
} from './timetable';
import { listFeeds } from '@/data/sessions/feeds';
import type { Viewer } from '@/data/scope';

let cast: Cast;
beforeAll(async () => {
  cast = await openCast();
});
afterAll(() => cast.runtime.close());

const rows = async (viewer: Viewer, values: Record<string, string> = {}) =>
  (await askList(SESSIONS, cast.runtime, viewer, values)).rows;
const starts = async (values: Record<string, string>) =>
  (await rows(cast.lead, values)).map(({ session_id, starts_at }) => [session_id, String(starts_at).slice(0, 16)]);

const weekly = {
  part: 'NET/A',
  title: 'Evening',
  repeat: 'weekly',
  from: '2026-10-12',
  until: '2026-11-09',
  days: ['Wed'],
  starts: '18:30',
  ends: '7.45 pm',
  mode: 'online',
};

describe('a file of sessions', () => {
  it('is seen by whoever sees somebody of the group, as far as they do', async () => {
    const seen = async (viewer: Viewer) =>
      (await rows(viewer)).map(({ session_id, expected }) => [session_id, expected]);
    expect(await seen(cast.lead)).toEqual([
      ['DRY-A-1', 3],
      ['DRY-A-2', 2],
      ['NET-A-1', 2],
      ['DRY-A-3', 2],
      ['DRY-ALL', 3],
    ]);
    expect((await seen(cast.mentor)).map(([id]) => id)).toEqual(['DRY-A-1', 'DRY-A-2', 'DRY-A-3', 'DRY-ALL']);
    expect(await seen(cast.one)).toEqual([['NET-A-1', 1]]);
    expect((await seen(cast.coordinator)).map(([id]) => id)).toEqual([
      'DRY-A-1',
      'DRY-A-2',
      'NET-A-1',
      'DRY-A-3',
      'DRY-ALL',
    ]);
  });

  it('says what is wrong with a row, and takes the others', async () => {
    const run = await bringIn(
      cast.runtime,
      'sessions',
      `course,group,session_id,title,starts_at,ends_at
NOWHERE,,X1,A,2026-11-20T18:30,2026-11-20T19:30
NET,A,X2,A,2026-11-20T18:30,2026-11-20T18:30
NET,A,DRY-A-1,A,2026-11-20T18:30,2026-11-20T19:30
NET,A,dry-a-1,A,2026-11-20T18:30,2026-11-20T19:30
NET,A,X3,A,2026-03-29T01:30,2026-03-29T03:30
NET,A,X4,Good,2026-11-21T18:30,2026-11-21T19:30
`,
    );
    expect(counts(run)).toMatchObject({ accepted: 1, rejected: 5 });
  });

  it('again undoes nothing that was changed by hand since, and moves what it itself moves', async () => {
    await changeSession(cast.runtime, cast.lead, 'DRY-ALL', {
      title: 'Workshop',
      from: '2026-11-29',
      starts: '10:00',
      ends: '12:00',
      mode: 'in_person',
      reaches: 'this',
    });
    expect(counts(await bringIn(cast.runtime, 'sessions', SESSIONS_FILE))).toMatchObject({ accepted: 0, duplicate: 5 });
    expect(await starts({ course: 'DRY', from: '2026-11-28' })).toEqual([['DRY-ALL', '2026-11-29T10:00']]);
    const moved = SESSIONS_FILE.replace('2026-11-28T09:30,2026-11-28T12:00', '2026-12-05T09:30,2026-12-05T12:00');
    expect(counts(await bringIn(cast.runtime, 'sessions', moved))).toMatchObject({ accepted: 1 });
    expect(await starts({ course: 'DRY', from: '2026-11-28' })).toEqual([['DRY-ALL', '2026-12-05T09:30']]);
    await bringIn(cast.runtime, 'sessions', SESSIONS_FILE);
  });
});

describe('a calendar file', () => {
  const calendar = (...lines: string[]) =>
    [
      'BEGIN:VCALENDAR',
      'VERSION:2.0',
      'BEGIN:VEVENT',
      'UID:term',
      'SUMMARY:Talk',
      'DTSTART;TZID=Europe/Dublin:20261201T120000',
      'DURATION:PT1H',
      ...lines,
      'END:VEVENT',
      'END:VCALENDAR',
      '',
    ].join('\r\n');

  it('gives its instances, and a newer version updates, cancels and leaves the past', async () => {
    const first = await bringIn(cast.runtime, 'sessions', calendar('RRULE:FREQ=WEEKLY;COUNT=4'), { part: 'NET/A' });
    expect(counts(first)).toMatchObject({ state: 'done', accepted: 4, rejected: 0 });
    const second = await bringIn(
      cast.runtime,
      'sessions',
      calendar('RRULE:FREQ=WEEKLY;COUNT=3', 'EXDATE;TZID=Europe/Dublin:20261208T120000'),
      { part: 'NET/A' },
    );
    expect(counts(second)).toMatchObject({ accepted: 2, duplicate: 2 });
    const found = (await rows(cast.lead, { group: 'NET/A', from: '2026-12-01' })).map(({ session_id, cancelled }) => [
      session_id,
      cancelled,
    ]);
    expect(found).toEqual([
      ['term/2026-12-01T12:00', false],
      ['term/2026-12-08T12:00', true],
      ['term/2026-12-15T12:00', false],
      ['term/2026-12-22T12:00', true],
    ]);
    const problems = async () => (await checkAll(cast.runtime)).problems.filter((line) => line.startsWith('session'));
    expect(await problems()).toEqual([]);
    // As an import that broke off would leave it.
    const left = { external_id: 'term/2026-12-22T12:00' };
    await cast.runtime.db('session').where(left).update({ cancelled: 0, imported_by: first.id });
    expect(await problems()).toEqual([
      'session term/2026-12-22T12:00 stands as held, and a newer version of its calendar left it out',
    ]);
    // Whoever holds it after all has said so by hand.
    await cast.runtime.db('session').where(left).update({ by_hand: 1 });
    expect(await problems()).toEqual([]);
    await cast.runtime.db('session').where(left).update({ by_hand: 0, cancelled: 1, imported_by: second.id });
    const [none, all] = ['BEGIN:VCALENDAR\r\nrubbish', calendar('RRULE:FREQ=WEEKLY;COUNT=2')];
    expect((await bringIn(cast.runtime, 'sessions', none)).state).toBe('failed');
    expect(counts(await bringIn(cast.runtime, 'sessions', all))).toMatchObject({ accepted: 1, rejected: 2 });
  });

  it('refuses a part that is not there', async () => {
    await expect(bringIn(cast.runtime, 'sessions', calendar(), { part: 'NET/Z' })).rejects.toThrow(/part is not known/);
    await expect(bringIn(cast.runtime, 'presence', 'x', { session: 'nothing' })).rejects.toThrow(
      /session is not known/,
    );
  });
});

const evening = {
  reaches: 'this',
  from: '2026-11-28',
  starts: '09:30',
  ends: '12:00',
  mode: 'in_person',
  place: 'Shed 4',
};

describe('planning', () => {
  it('adds a weekly series by the clock on the wall, breaks left out, and takes it back', async () => {
    await enterBreak(cast.runtime, cast.lead, { course: 'NET', from: '2026-10-19', to: '2026-10-25' });
    const planned = await planSessions(cast.runtime, cast.lead, weekly);
    expect(planned).toMatchObject({ sessions: 3, left: [], first: 'NET-A-02' });
    const found = await starts({ group: 'NET/A', to: '2026-11-15' });
    expect(found).toEqual([
      ['NET-A-02', '2026-10-14T17:30'],
      ['NET-A-03', '2026-10-28T18:30'],
      ['NET-A-04', '2026-11-04T18:30'],
    ]);
    await undoPlanning(cast.runtime, cast.lead, planned.change);
    expect(await starts({ group: 'NET/A', to: '2026-11-15' })).toEqual([]);
    await expect(undoPlanning(cast.runtime, cast.lead, planned.change)).rejects.toThrow();
  });

  it('names every field that is wrong', async () => {
    const fault = (change: object) =>
      planSessions(cast.runtime, cast.lead, { ...weekly, ...change }).then(() => 'taken', String);
    expect(await fault({ days: undefined })).toMatch(/days is missing/);
    expect(await fault({ days: ['Someday'] })).toMatch(/days holds what is no day/);
    expect(await fault({ until: '2026-10-01' })).toMatch(/until lies before/);
    expect(await fault({ until: undefined })).toMatch(/until is missing/);
    expect(await fault({ starts: '25:00' })).toMatch(/starts is not a time/);
    expect(await fault({ ends: '18:30' })).toMatch(/ends is when it begins/);
    expect(await fault({ part: 'NET/Z' })).toMatch(/part is none that you plan/);
    expect(await fault({ instructor: '999' })).toMatch(/instructor is nobody/);
    expect(await fault({ days: ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'], until: '2029-01-01' })).toMatch(
      /more than 260/,
    );
  });

  it('changes this one, this and later, or all, and names what stays', async () => {
    const { runtime, lead } = cast;
    await planSessions(runtime, lead, { ...weekly, from: '2026-11-02', until: '2026-12-14', days: ['Mon'] });
    const ids = (await rows(lead, { group: 'NET/A' }))
      .filter(({ title }) => String(title).startsWith('Evening'))
      .map(({ session_id }) => String(session_id));
    await giveMarks(runtime, lead, ids[1], { marks: [{ learner_id: 'L1', mark: 'present', seen: 0 }] });
    const form = { title: 'Moved 3', from: '2026-11-17', starts: '19:00', ends: '20:00', mode: 'online' };
    expect(await changeSession(runtime, lead, ids[2], { ...form, reaches: 'this' })).toMatchObject({
      sessions: 1,
      left: [],
    });
    const later = await changeSession(runtime, lead, ids[4], {
      ...form,
      title: 'Talk 5',
      from: '2026-12-01',
      reaches: 'later',
    });
    expect(later.sessions).toBe(3);
    const all = await changeSession(runtime, lead, ids[0], {
      ...form,
      title: 'Evening 1',
      from: '2026-11-02',
      reaches: 'all',
    });
    expect(all.left).toEqual(['Mon 9 Nov: its roll is taken', 'Tue 17 Nov: it was changed by itself']);
    const found = (await rows(lead, { group: 'NET/A' })).filter(({ session_id }) => ids.includes(String(session_id)));
    expect(found.map(({ title, starts_at }) => [title, String(starts_at).slice(0, 16)])).toEqual([
      ['Evening 1', '2026-11-02T19:00'],
      ['Evening 2', '2026-11-09T18:30'],
      ['Moved 3', '2026-11-17T19:00'],
      ['Evening 4', '2026-11-23T19:00'],
      ['Talk 5', '2026-12-01T19:00'],
      ['Talk 6', '2026-12-08T19:00'],
      ['Talk 7', '2026-12-15T19:00'],
    ]);
  });

  it('points out what is in the way, and forbids nothing', async () => {
    const planned = await planSessions(cast.runtime, cast.lead, {
      ...weekly,
      part: 'DRY',
      repeat: 'once',
      from: '2026-11-17',
      starts: '19:30',
      ends: '20:30',
    });
    expect(planned.sessions).toBe(1);
    expect(planned.clashes).toEqual(['Tue 17 Nov, 18:30: Week 2 (DRY · A), the same group']);
    await undoPlanning(cast.runtime, cast.lead, planned.change);
  });

  it('says of a session out of one’s scope that it is there, not what it is', async () => {
    const { runtime, lead, instructor } = cast;
    const at = {
      repeat: 'once',
      from: '2026-11-18',
      starts: '19:30',
      ends: '20:30',
      instructor: String(instructor.staffId),
    };
    const theirs = await planSessions(runtime, lead, { ...weekly, ...at, part: 'DRY', title: 'Not for all' });
    const stored = () => runtime.db('session').where('external_id', theirs.first);
    const { course_id } = (await stored().first())!;
    const net = (await runtime.db('course').where('code', 'NET').first())!;
    await stored().update({ course_id: net.id, group_id: null });
    const planned = await planSessions(runtime, instructor, { ...weekly, ...at, part: 'DRY', title: 'Mine' });
    expect(planned.clashes).toContain('Wed 18 Nov, 19:30: another session, the same instructor');
    expect(planned.clashes.join()).not.toContain('Not for all');
    await undoPlanning(runtime, instructor, planned.change);
    await stored().update({ course_id });
    await undoPlanning(runtime, lead, theirs.change);
  });

  it('undoes what stands as one set it and is still one’s own to plan, and shows a change of somebody else', async () => {
    const { runtime, instructor, lead } = cast;
    const moved = await changeSession(runtime, instructor, 'DRY-ALL', { ...evening, title: 'Mine' });
    await changeSession(runtime, lead, 'DRY-ALL', { ...evening, title: 'Theirs' });
    await expect(undoPlanning(runtime, instructor, moved.change)).rejects.toThrow('changed again');
    const titled = async () =>
      (await runtime.db('session').where('external_id', 'DRY-ALL').select('title', 'sequence'))[0];
    expect((await titled()).title).toBe('Theirs');
    // A form that was opened before that does not overwrite it.
    const { sequence } = await titled();
    await expect(
      changeSession(runtime, instructor, 'DRY-ALL', { ...evening, title: 'Late', seen: String(sequence - 1) }),
    ).rejects.toThrow('changed by somebody else');
    const again = await changeSession(runtime, instructor, 'DRY-ALL', {
      ...evening,
      title: 'Seen',
      seen: String(sequence),
    });
    const without = { ...instructor, courses: [], groups: [] };
    await expect(undoPlanning(runtime, without, again.change)).rejects.toThrow('no longer yours');
    await undoPlanning(runtime, instructor, again.change);
    expect((await titled()).title).toBe('Theirs');
    await changeSession(runtime, lead, 'DRY-ALL', { ...evening, title: 'Workshop' });
  });

  it('calls off with a reason, holds after all, and deletes only where nothing hangs on it', async () => {
    const { runtime, instructor } = cast;
    await expect(cancelSessions(runtime, instructor, ['DRY-ALL'], {})).rejects.toThrow(/reason is missing/);
    await cancelSessions(runtime, instructor, ['DRY-ALL', 'DRY-A-3'], { reason: 'storm' });
    expect((await rows(cast.lead, { course: 'DRY' })).filter(({ cancelled }) => cancelled)).toHaveLength(2);
    await expect(
      giveMarks(runtime, instructor, 'DRY-A-3', { marks: [{ learner_id: 'L1', mark: 'present', seen: 0 }] }),
    ).rejects.toThrow(/cancelled/);
    await reinstateSessions(runtime, instructor, ['DRY-A-3']);
    await takePresence(runtime, instructor, 'DRY-A-2', [{ person: 'L1', entered: '2026-11-17T18:30:00Z' }]);
    const gone = await deleteSessions(runtime, instructor, ['DRY-A-2', 'DRY-ALL']);
    expect(gone).toMatchObject({ sessions: 1 });
    expect(gone.left[0]).toMatch(/^Tue 17 Nov: marks, presence or a check-in hang on it/);
    expect((await rows(cast.lead, { course: 'DRY' })).map(({ session_id }) => session_id)).not.toContain('DRY-ALL');
    await undoPlanning(runtime, instructor, gone.change);
    expect((await rows(cast.lead, { course: 'DRY' })).map(({ session_id }) => session_id)).toContain('DRY-ALL');
  });

  it('is for those whose course or group it is', async () => {
    const { runtime, mentor, coordinator, one, instructor } = cast;
    const plan = (viewer: Viewer, part: string) =>
      planSessions(runtime, viewer, { ...weekly, part, repeat: 'once', from: '2027-01-05' }).then(
        (done) => done.sessions,
        String,
      );
    expect(await plan(mentor, 'DRY/A')).toBe(1);
    expect(await plan(mentor, 'DRY')).toMatch(/none that you plan/);
    expect(await plan(instructor, 'NET/A')).toMatch(/none that you plan/);
    expect(await plan(coordinator, 'DRY/A')).toMatch(/none that you plan/);
    expect(await plan(one, 'NET/A')).toMatch(/none that you plan/);
    for (const viewer of [mentor, coordinator, one]) {
      await expect(cancelSessions(runtime, viewer, ['DRY-ALL'], { reason: 'x' })).rejects.toThrow('No such session');
    }
    expect((await planningChoices(runtime, mentor)).parts.map(({ value }) => value)).toEqual(['DRY/A']);
    expect((await planningChoices(runtime, coordinator)).parts).toEqual([]);
  });
});

describe('a calendar to subscribe to', () => {
  it('shows what its owner sees, is read by a reader of another make, and ends when it is revoked', async () => {
    const { runtime, mentor, lead } = cast;
    const path = await makeFeed(runtime, mentor, null);
    const token = path.slice('/calendar/'.length, -'.ics'.length);
    const read = convertIcsCalendar(undefined, await readFeed(runtime, token));
    const ids = read.events!.map(({ uid }) => uid.replace('@lee-shore', ''));
    expect(ids).toContain('DRY-A-2');
    expect(ids.filter((id) => id.startsWith('NET'))).toEqual([]);
    const week2 = read.events!.find(({ uid }) => uid === 'DRY-A-2@lee-shore')!;
    expect(week2.start.date.toISOString()).toBe('2026-11-17T18:30:00.000Z');
    const [feed] = await listFeeds(runtime.db, mentor);
    expect(feed.read_at).not.toBeNull();
    await expect(removeFeed(runtime, lead, feed.id)).rejects.toThrow();
    await removeFeed(runtime, mentor, feed.id);
    await expect(readFeed(runtime, token)).rejects.toThrow('No such calendar');
    await expect(makeFeed(runtime, mentor, 'NET')).rejects.toThrow('No such course');
    await expect(readFeed(runtime, 'x'.repeat(32))).rejects.toThrow('No such calendar');
  });
});
