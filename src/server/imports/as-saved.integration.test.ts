import { readFileSync, readdirSync } from 'node:fs';
import { afterEach, describe, expect, it } from 'vitest';
import { checkAll } from '@/server/check';
import { recalculate } from '@/server/drift/recalculate';
import { bringIn, testRuntime, type TestRuntime } from '@/server/testing';

/** Files as systems of several makes and languages save them, each brought in by itself into an empty installation. */
const FOLDER = 'samples/as-saved';

let runtime: TestRuntime | undefined;
afterEach(() => runtime?.close());

/** What each file comes to: what it is, whom and what it names, and what it tells. */
async function broughtIn(name: string) {
  runtime = await testRuntime();
  const run = await bringIn(runtime, 'auto', readFileSync(`${FOLDER}/${name}`), {
    ...{ create: 'yes', course: 'Drystone Walling', made_at: '2026-11-24T09:00:00Z', file_name: name },
  });
  await recalculate(runtime);
  const { db } = runtime;
  const people = await db('learner').orderBy('family_name').select('given_name', 'family_name');
  const instant = (at: number | null) => (at === null ? null : new Date(at).toISOString().slice(0, 16));
  return {
    ...{ kind: run.kind, read: run.read, rejected: run.rejected, waiting: run.waiting },
    people: people.map(({ given_name, family_name }) => `${given_name} ${family_name}`),
    items: (await db('item').orderBy('id').select('title', 'kind', 'points')).map(({ title, kind, points }) =>
      [title, kind, points].filter((part) => part !== null).join(', '),
    ),
    notes: JSON.parse(run.notes) as string[],
    problems: (await checkAll(runtime)).problems,
    instant,
    db,
  };
}

const NOTHING_WRONG = { rejected: 0, waiting: 0, problems: [] };
const THREE = ['Ines Marrow', 'Halima Okoro', 'Tobias Quill'];

describe('files as they are saved elsewhere', () => {
  it('are all tried here', () => {
    expect(readdirSync(FOLDER).sort()).toEqual([
      ...['achevement.csv', 'bewertungen.csv', 'evening-meeting.csv', 'handed-in.csv', 'lernstand.csv'],
      'lista-obecnosci.csv',
      ...['opened-what.jsonl', 'registro.tsv', 'who-is-here.csv'],
    ]);
  });

  it('a list of who is here, with somebody who teaches in it', async () => {
    const { instant, db, ...found } = await broughtIn('who-is-here.csv');
    expect(found).toMatchObject({
      kind: 'participants',
      people: ['Ines Marrow', 'Halima Okoro', 'Tobias Quill', 'Petra Sandoval'],
      ...NOTHING_WRONG,
    });
    expect(found.notes).toEqual(['1 row of whoever teaches or runs it is left out.']);
    const accesses = await db('platform_snapshot').orderBy('id').pluck('last_access');
    expect(accesses.map(instant)).toEqual(['2026-11-24T06:56', null, '2026-11-12T06:00', '2026-11-19T09:00']);
    expect(await db('course_group').orderBy('name').pluck('name')).toEqual(['Group A', 'Group B']);
  });

  it('what was handed in and marked, a row a piece', async () => {
    const { instant, db, ...found } = await broughtIn('handed-in.csv');
    expect(found).toMatchObject({
      kind: 'gradebook',
      people: THREE,
      items: ['Wall report, assignment', 'Batter quiz, quiz'],
      ...NOTHING_WRONG,
    });
    const attempts = await db('attempt').orderBy('submitted_at').select('submitted_at', 'score', 'points');
    expect(attempts.map(({ submitted_at, score, points }) => [instant(submitted_at), score, points])).toEqual([
      ['2026-11-02T10:20', 7.5, 10],
      ['2026-11-13T14:05', 62, 100],
      ['2026-11-16T20:11', null, null],
    ]);
  });

  it('an evening’s meeting, between what it says of itself and what was said', async () => {
    const { instant, db, ...found } = await broughtIn('evening-meeting.csv');
    expect(found).toMatchObject({
      kind: 'presence',
      read: 3,
      people: ['Ines Marrow', 'Tobias Quill'],
      ...NOTHING_WRONG,
    });
    const [session] = await db('session').select('title', 'starts_at');
    expect([session.title, instant(session.starts_at)]).toEqual(['Drystone evening', '2026-11-18T18:28']);
    expect(await db('presence').whereNotNull('learner_id').pluck('ms')).toEqual([62 * 60_000, 10 * 60_000]);
  });

  it('events, an object a line, with people and pages inside of them', async () => {
    const { instant, db, ...found } = await broughtIn('opened-what.jsonl');
    expect(found).toMatchObject({
      kind: 'access-log',
      read: 4,
      people: THREE,
      items: ['Knots and hitches, page', 'Ask us anything, discussion', 'Batter quiz, quiz'],
      ...NOTHING_WRONG,
    });
    expect((await db('event').orderBy('at').pluck('at')).map(instant)[0]).toBe('2026-11-12T07:12');
  });

  it('a German list of how far everybody is', async () => {
    const { db, ...found } = await broughtIn('lernstand.csv');
    expect(found).toMatchObject({ kind: 'participants', people: THREE, ...NOTHING_WRONG });
    const said = await db('platform_snapshot').orderBy('id').select('progress', 'minutes');
    expect(said).toEqual([
      { progress: 45, minutes: 200 },
      { progress: 0, minutes: 0 },
      { progress: 100, minutes: 482 },
    ]);
    expect(await db('enrolment').orderBy('id').pluck('status')).toEqual(['active', 'active', 'completed']);
    expect(await db('course').pluck('title')).toEqual(['Trockenmauern']);
  });

  it('a German gradebook with weeks over its columns and a row of points, in UTF-16', async () => {
    const { db, ...found } = await broughtIn('bewertungen.csv');
    expect(found).toMatchObject({
      kind: 'gradebook',
      people: THREE,
      items: [
        'Woche 1: Lesen, assignment',
        'Woche 1: Quiz, quiz, 10',
        'Woche 2: Knoten, assignment, 20',
        'Woche 2: Bericht, assignment, 100',
      ],
      ...NOTHING_WRONG,
    });
    expect(await db('attempt').orderBy('id').pluck('score')).toEqual([7.5, 17, 62, 9, 71.5]);
    expect(await db('extension').pluck('excused')).toEqual([1]);
  });

  it('a French grid of what is done, with the day beside each', async () => {
    const { instant, db, ...found } = await broughtIn('achevement.csv');
    expect(found).toMatchObject({
      kind: 'completion',
      people: THREE,
      items: ['Lire : les nœuds, page', 'Devoir 1, assignment'],
      ...NOTHING_WRONG,
    });
    const done = await db('completion_override').where('state', 'done').orderBy('at').pluck('at');
    expect(done.map(instant)).toEqual(['2026-11-02T10:00', '2026-11-03T11:00', '2026-11-04T12:00']);
  });

  it('a Polish register, whose sessions are made of its days', async () => {
    const { instant, db, ...found } = await broughtIn('lista-obecnosci.csv');
    expect(found).toMatchObject({ kind: 'marks', people: THREE, items: [], ...NOTHING_WRONG });
    const sessions = await db('session').orderBy('starts_at').select('starts_at', 'ends_at');
    expect(sessions.map(({ starts_at }) => instant(starts_at))).toEqual([
      ...['2026-09-27T23:00', '2026-10-04T23:00', '2026-10-11T23:00', '2026-10-18T23:00'],
    ]);
    const marks = await db('attendance').orderBy(['learner_id', 'session_id']).pluck('mark');
    expect(marks).toHaveLength(11);
    expect(marks.filter((mark) => mark === 'absent')).toHaveLength(4);
    const again = await bringIn(runtime!, 'auto', readFileSync(`${FOLDER}/lista-obecnosci.csv`), {
      course: 'Drystone Walling',
    });
    expect(again).toMatchObject({ kind: 'marks', accepted: 0, duplicate: 3 });
    expect(await db('session')).toHaveLength(4);
  });

  it('an Italian log', async () => {
    const { instant, db, ...found } = await broughtIn('registro.tsv');
    expect(found).toMatchObject({
      kind: 'access-log',
      people: ['Ines Marrow', 'Tobias Quill'],
      items: ['I nodi, page', 'Prova 1, quiz', 'Forum: domande, discussion'],
      ...NOTHING_WRONG,
    });
    expect((await db('event').orderBy('at').pluck('at')).map(instant).at(-1)).toBe('2026-11-24T09:01');
  });
});
