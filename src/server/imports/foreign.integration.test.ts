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
