/** Files of other systems, brought in as a new user would: recognised, people found or made, figures as our own files give them. */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterEach, describe, expect, it } from 'vitest';
import { askList, bringIn, testRuntime, type TestRuntime } from '../testing';
import { PROGRESS } from '../completion/progress-list';
import { GRADES } from '../grades/grades-list';
import { LEARNERS } from '../people/learner-list';
import type { List } from '../request/list';
import { attendanceAnswer } from '../sessions/session-files';
import { SYSTEM_VIEWER } from '../system-viewer';
import { showRun } from './show';

const FOLDER = 'samples/foreign';
const ANSWERS = JSON.parse(readFileSync(join(FOLDER, 'expected.json'), 'utf8'));
const sample = (name: string) => readFileSync(join(FOLDER, name));
const small = (name: string) => readFileSync(join('samples/small', name));

let runtime: TestRuntime;
afterEach(() => runtime.close());

/** A figure of each learner of the course in a list, by e-mail address. */
async function byEmail<Row>(list: List<Row>, figure: string): Promise<Record<string, unknown>> {
  const people = await askList(LEARNERS, runtime, SYSTEM_VIEWER, { limit: '1000' });
  const mails = new Map(people.rows.map((row) => [row.learner_id, String(row.email).toLowerCase()]));
  const { rows } = await askList(list, runtime, SYSTEM_VIEWER, { course: 'HAT', limit: '1000' });
  return Object.fromEntries(rows.map((row) => [mails.get(row.learner_id), row[figure]]));
}

const outlined = async () => {
  runtime = await testRuntime();
  for (const kind of ['outline', 'roster', 'sessions']) await bringIn(runtime, kind, small(`${kind}.csv`));
};

describe('samples of other systems', () => {
  it('a list of participants alone', async () => {
    runtime = await testRuntime();
    const { made_at, days_quiet } = ANSWERS['teilnehmer.txt'];
    const run = await bringIn(runtime, 'auto', sample('teilnehmer.txt'), { course: 'HAT', create: 'yes', made_at });
    expect(run.error).toBeNull();
    const made = { learners: 14, enrolments: 14, courses: 1, items: 0 };
    expect(showRun(run)).toMatchObject({ kind: 'participants', rejected: 0, waiting: 0, made });
    expect(await byEmail(LEARNERS, 'days_quiet')).toEqual(days_quiet);
  });

  it('a click log as a spreadsheet', async () => {
    runtime = await testRuntime();
    const run = await bringIn(runtime, 'auto', sample('clicks.xlsx'), { course: 'HAT', create: 'yes' });
    expect(run.error).toBeNull();
    const { rows, days_quiet } = ANSWERS['clicks.xlsx'];
    expect(showRun(run)).toMatchObject({ kind: 'access-log', read: rows, rejected: 0, waiting: 0 });
    const answers = Object.entries(days_quiet).filter(([, days]) => days !== null);
    expect(await byEmail(LEARNERS, 'days_quiet')).toEqual(Object.fromEntries(answers));
  });

  it('a gradebook after outline and roster', async () => {
    await outlined();
    const run = await bringIn(runtime, 'auto', sample('notes.csv'));
    expect(run.error).toBeNull();
    expect(showRun(run)).toMatchObject({ kind: 'gradebook', read: 14, rejected: 0, waiting: 0 });
    expect(await byEmail(GRADES, 'on_graded_work')).toEqual(ANSWERS['notes.csv'].on_graded_work);
  });

  it('a gradebook alone', async () => {
    runtime = await testRuntime();
    const run = await bringIn(runtime, 'auto', sample('notes.csv'), { course: 'HAT', create: 'yes' });
    expect(showRun(run)).toMatchObject({ kind: 'gradebook', rejected: 0, made: { learners: 14, items: 20 } });
    // Without the outline every point counts alike.
    expect((await byEmail(GRADES, 'on_graded_work'))['l210019@learner.example']).toBeCloseTo((100 * 429) / 520, 1);
  });

  it('a grid of what is done', async () => {
    await outlined();
    const run = await bringIn(runtime, 'auto', sample('done.csv'), { course: 'HAT' });
    expect(run.error).toBeNull();
    expect(showRun(run)).toMatchObject({ kind: 'completion', read: 14, rejected: 0, waiting: 0 });
    const { done, required } = ANSWERS['done.csv'];
    expect(await byEmail(PROGRESS, 'done')).toEqual(done);
    expect(await byEmail(PROGRESS, 'required')).toEqual(required);
  });

  it('a meeting’s list of minutes', async () => {
    await outlined();
    const run = await bringIn(runtime, 'auto', sample('meeting.csv'), { course: 'HAT' });
    expect(run.error).toBeNull();
    const { minutes, session } = ANSWERS['meeting.csv'];
    // Two are called Cerys: one of them is not in this group.
    expect(showRun(run)).toMatchObject({ kind: 'presence', read: 5, rejected: 0 });
    const answer = await attendanceAnswer(runtime, SYSTEM_VIEWER, session, {});
    const { data: learners }: { data: { learner_id: string; minutes: number | null }[] } = await answer.json();
    const people = await askList(LEARNERS, runtime, SYSTEM_VIEWER, { limit: '1000' });
    const mails = new Map(people.rows.map((row) => [row.learner_id, row.email]));
    const found = learners.flatMap((row) => (row.minutes === null ? [] : [[mails.get(row.learner_id), row.minutes]]));
    expect(Object.fromEntries(found)).toEqual(minutes);
  });
});

describe('one file alone, on an empty installation', () => {
  it('a meeting’s list makes its session, its people and the course', async () => {
    runtime = await testRuntime();
    const run = await bringIn(runtime, 'auto', sample('meeting.csv'), { course: 'Hatchery Technician', create: 'yes' });
    expect(run.error).toBeNull();
    expect(showRun(run)).toMatchObject({ accepted: 5, rejected: 0, waiting: 0, made: { learners: 5, courses: 1 } });
    const [session] = await runtime.db('session').select('external_id', 'starts_at', 'ends_at');
    expect(session.starts_at).toBe(Date.parse('2026-10-14T17:30:00Z'));
    const answer = await attendanceAnswer(runtime, SYSTEM_VIEWER, session.external_id, {});
    const { data }: { data: { name: string; minutes: number | null }[] } = await answer.json();
    expect(data.find(({ name }) => name === 'Bram Quarrie')?.minutes).toBe(4);
  });
});

describe('a file that was said to be of a kind', () => {
  it('presence with minutes instead of a time of leaving', async () => {
    await outlined();
    const text = `person,email,entered,minutes
Bram Quarrie,l210001@learner.example,2026-10-14T17:35:00Z,20
Zofia Ashdown,,2026-10-14T17:30:00Z,75
`;
    const run = await bringIn(runtime, 'presence', text, { session: 'HAT-A-03' });
    expect(run).toMatchObject({ state: 'done', accepted: 2, rejected: 0, unmatched: 0 });
    const answer = await attendanceAnswer(runtime, SYSTEM_VIEWER, 'HAT-A-03', {});
    const { data }: { data: { learner_id: string; minutes: number | null }[] } = await answer.json();
    expect(
      data.filter(({ minutes }) => minutes !== null).map(({ learner_id, minutes }) => [learner_id, minutes]),
    ).toEqual(
      expect.arrayContaining([
        ['L210001', 20],
        ['L210007', 75],
      ]),
    );
  });

  it('a log of names, and one that is none', async () => {
    await outlined();
    const log = 'When,Who,Where,What\n2026-10-14T17:35:00Z,Zofia Ashdown,Page 1,viewed\n';
    expect(await bringIn(runtime, 'access-log', log, { course: 'HAT' })).toMatchObject({ state: 'done', accepted: 1 });
    expect(await bringIn(runtime, 'access-log', 'colour,size\nred,4\n')).toMatchObject({ state: 'failed', read: 0 });
  });

  it('a list of participants says who has left, where no roster does', async () => {
    runtime = await testRuntime();
    const text = 'Name,Last access,Status\nInes Marrow,2026-11-20 10:00,Active\nTobias Quill,never,Withdrawn\n';
    await bringIn(runtime, 'participants', text, { course: 'Ropes', create: 'yes' });
    expect(await runtime.db('enrolment').orderBy('id').pluck('status')).toEqual(['active', 'withdrawn']);
    const refused = bringIn(runtime, 'auto', 'Name,Last access\nInes Marrow,03/04/2026\nTobias Quill,05/06/2026\n', {
      course: 'Ropes',
    });
    await expect(refused).rejects.toMatchObject({ more: { missing: ['dates'], kinds: [{ kind: 'participants' }] } });
  });

  it('says of each thing what is missing; a name twice and one too long make nobody', async () => {
    runtime = await testRuntime();
    const meeting = 'Name,Joined,Duration\nInes Marrow,03/04/2026 10:00,45\n';
    await expect(bringIn(runtime, 'auto', meeting, { course: 'Ropes', create: 'yes' })).rejects.toMatchObject({
      errors: [{ field: 'dates', message: expect.stringContaining('either way round') }],
    });
    const run = await bringIn(runtime, 'auto', meeting, { course: 'Ropes', create: 'yes', dates: 'day_first' });
    expect(run).toMatchObject({ state: 'done', accepted: 1, rejected: 0 });
    const people = `Name,Last access\n"${'<'.repeat(100_000)}",never\nInes Marrow,2 days 1 hour\nInes Marrow,9 days\n`;
    const list = await bringIn(runtime, 'auto', people, { course: 'Ropes', create: 'yes' });
    expect(showRun(list)).toMatchObject({ rejected: 1, waiting: 2, accepted: 0, made: { learners: 0 } });
    expect(await runtime.db('learner').pluck('external_id')).toEqual(['Ines Marrow (by name)']);
  });
});
