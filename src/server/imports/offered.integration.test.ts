/** Files on the page: looked at, changed, taken together; people who wait; what was made; and the folder that is watched. */
import { mkdirSync, readFileSync, readdirSync, utimesSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { zipSync } from 'fflate';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { findRun, pastRuns, type ImportRun } from '@/data/imports/import-runs';
import { LEARNERS } from '../people/learner-list';
import { makeOwner } from '../owner';
import { SYSTEM_VIEWER } from '../system-viewer';
import { checkAll } from '../check';
import { recalculate } from '../drift/recalculate';
import { coursesWithGroups } from '@/data/people/roster';
import { ACCESS_LOG } from '../access/log-list';
import { askList, bringIn, smallRuntime, testRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { chooseColumn, chooseForFile, leaveOut, offerFile, offeredFiles, takeOffered } from './offered';
import { bringBackDropped, dropped, provisional, settleProvisional } from './provisional';
import { workOnNext } from './queue';
import { settleWaiting, waitingForNames } from './waiting';
import { takeDropped } from './watched-folder';

let runtime: TestRuntime;
beforeEach(async () => {
  runtime = await testRuntime();
});
afterEach(() => runtime.close());

const body = (text: string | Buffer) => Readable.from([Buffer.from(text)]);
const offer = (name: string, text: string | Buffer) =>
  offerFile(runtime, SYSTEM_VIEWER, { file_name: name }, body(text));
const offered = () => offeredFiles(runtime, SYSTEM_VIEWER);

async function workAll(): Promise<ImportRun[]> {
  while ((await workOnNext(runtime, makeOwner())) === 'done');
  return (await pastRuns(runtime.db, SYSTEM_VIEWER, 100, 0)).rows;
}

const PEOPLE =
  'Name;Mail;Last access\nMarrow, Ines;ines@learner.example;3 days 4 hours\nQuill, Tobias;tobias@learner.example;never\n';
const LOG = 'When,Who,Where,What\n12/11/2026 14:05,Ines Marrow,Knots,viewed\n13/11/2026 09:00,A. Farrow,Knots,viewed\n';

async function learners() {
  const { rows } = await askList(LEARNERS, runtime, SYSTEM_VIEWER, { limit: '100', sort: 'name' });
  return rows.map(({ name, days_quiet }) => [name, days_quiet]);
}

describe('files that were dropped', () => {
  it('are looked at before anything is taken, and what is said of one holds for those that came with it', async () => {
    const [first] = await offer('people.txt', PEOPLE);
    await offer('log.csv', LOG);
    expect(await offered()).toMatchObject([
      { name: 'people.txt', kind: 'participants', missing: [{ field: 'course' }], hasAges: true, counts: null },
      { name: 'log.csv', kind: 'access-log', dates: 'day_first', missing: [{ field: 'course' }] },
    ]);
    await chooseForFile(runtime, SYSTEM_VIEWER, first, { course: 'Ropes' });
    const [people, log] = await offered();
    expect(people).toMatchObject({
      course: 'Ropes',
      missing: [],
      counts: { rows: 2, taken: 2, waiting: 0, unreadable: 0 },
      made: { learners: 2, courses: 1 },
    });
    expect(log).toMatchObject({
      course: 'Ropes',
      made: { items: 1 },
      example: { at: Date.parse('2026-11-12T14:05:00Z') },
    });
    // Looking has made nothing.
    expect(await learners()).toEqual([]);
    // Two press at the same time: each file is taken once.
    const both = await Promise.all([takeOffered(runtime, SYSTEM_VIEWER), takeOffered(runtime, SYSTEM_VIEWER)]);
    expect(both.reduce((sum, count) => sum + count, 0)).toBe(2);
    const runs = await workAll();
    // The list of people came first, whatever was dropped first.
    expect(runs.map(({ kind, state, rejected }) => [kind, state, rejected])).toEqual([
      ['access-log', 'done', 0],
      ['participants', 'done', 0],
    ]);
    expect(await learners()).toEqual([
      ['A. Farrow', 11],
      ['Ines Marrow', 3],
      ['Tobias Quill', null],
    ]);
    expect(await offered()).toEqual([]);
  });

  it('are read as somebody says, column by column', async () => {
    const [id] = await offer('marks.csv', 'Name,Mail,Knots,Seat\nInes Marrow,ines@learner.example,17/20,4\n');
    await chooseForFile(runtime, SYSTEM_VIEWER, id, { course: 'Ropes' });
    expect((await offered())[0].columns.map(({ role }) => role)).toEqual([
      'name',
      'email',
      'item column',
      'item column',
    ]);
    await chooseColumn(runtime, SYSTEM_VIEWER, id, 3, 'nothing');
    expect((await offered())[0]).toMatchObject({ made: { items: 1 }, columns: [{}, {}, {}, { role: 'nothing' }] });
    await takeOffered(runtime, SYSTEM_VIEWER);
    expect(await workAll()).toMatchObject([{ kind: 'gradebook', accepted: 1 }]);
    // Next week's needs nothing said.
    await offer('marks.csv', 'Name,Mail,Knots,Seat\nTobias Quill,tobias@learner.example,12/20,4\n');
    expect((await offered())[0]).toMatchObject({ course: 'Ropes', missing: [], made: { items: 0, learners: 1 } });
  });

  it('cannot be taken while something has to be said of one, and can be left out', async () => {
    const [id] = await offer('holiday.csv', 'Colour,Weight\nred,4\nblue,5\n');
    expect((await offered())[0].problem).toContain('Nobody is named in it');
    await expect(takeOffered(runtime, SYSTEM_VIEWER)).rejects.toThrow('kind is not known');
    await leaveOut(runtime, SYSTEM_VIEWER, id);
    expect(await offered()).toEqual([]);
    expect(await findRun(runtime.db, id)).toBeNull();
    await expect(offer('x.xls', Buffer.from([0xd0, 0xcf, 0x11, 0xe0, 1, 2]))).rejects.toThrow('with a password');
  });

  it('are a lead’s alone', async () => {
    await runtime.close();
    runtime = await smallRuntime();
    const mentor = await viewerByEmail(runtime, 'mentor@staff.example');
    await expect(offerFile(runtime, mentor, {}, body(PEOPLE))).rejects.toThrow('found');
    await expect(offeredFiles(runtime, mentor)).rejects.toThrow('found');
    await expect(provisional(runtime, mentor)).rejects.toThrow('found');
    await expect(waitingForNames(runtime, mentor)).rejects.toThrow('found');
  });

  it('come out of an archive, each as what it is, and no name in it is a path', async () => {
    const zip = zipSync({
      'log.csv': Buffer.from(LOG),
      'term/people.txt': Buffer.from(PEOPLE),
      'term/people.jsonl': Buffer.from('{"name":"Halima Okoro","last access":"2 days 1 hour","course":"Ropes"}\n'),
      '__MACOSX/people.txt': Buffer.from('x'),
      'readme.md': Buffer.from('# nothing'),
    });
    await offer('term.zip', Buffer.from(zip));
    expect((await offered()).map(({ name, kind }) => [name, kind])).toEqual([
      ['log.csv', 'access-log'],
      ['people.txt', 'participants'],
      ['people.jsonl', 'participants'],
    ]);
    const inner = zipSync({ 'a.zip': zipSync({ 'b.zip': zip }) });
    await expect(offer('nested.zip', Buffer.from(inner))).rejects.toThrow('archive in an archive');
    const outside = zipSync({ '../../log.csv': Buffer.from(LOG) });
    await expect(offer('outside.zip', Buffer.from(outside))).rejects.toThrow('leads out of it');
    await expect(offer('cut.zip', Buffer.from(zip.slice(0, 200)))).rejects.toThrow('cannot be read');
  });
});

describe('people whom nobody knows', () => {
  beforeEach(async () => {
    await runtime.close();
    runtime = await smallRuntime();
  });
  const log = (rows: string) => `When,Who,Where,What\n${rows}`;

  it('wait, are settled once, and are known from then on', async () => {
    const text = log(
      '2026-11-12T14:05:00Z,I. Marrow,Stone,viewed\n2026-11-13T14:05:00Z,I. Marrow,Stone,viewed\n2026-11-13T14:05:00Z,Tobias Quill,Stone,viewed\n',
    );
    const run = await bringIn(runtime, 'auto', text, { course: 'DRY' });
    expect(run).toMatchObject({ state: 'done', accepted: 1, waiting: 2, rejected: 0 });
    const [person] = await waitingForNames(runtime, SYSTEM_VIEWER);
    expect(person).toMatchObject({
      person: 'I. Marrow',
      rows: 2,
      course: 'Drystone Walling',
      likely: [{ learnerId: 'L1' }],
    });
    await settleWaiting(runtime, SYSTEM_VIEWER, person.courseId, person.folded, person.likely[0].id);
    expect(await waitingForNames(runtime, SYSTEM_VIEWER)).toEqual([]);
    const [again, before] = await workAll();
    expect([again.accepted, again.waiting, before.waiting]).toEqual([2, 0, 0]);
    // Twice the same, and next week's.
    expect(await bringIn(runtime, 'auto', text, { course: 'DRY' })).toMatchObject({
      accepted: 0,
      duplicate: 3,
      waiting: 0,
    });
  });

  it('may be new, or nobody', async () => {
    await bringIn(
      runtime,
      'auto',
      log('2026-11-12T14:05:00Z,Zora Pell,Stone,viewed\n2026-11-12T15:00:00Z,iPad 4,Stone,viewed\n'),
      { course: 'DRY' },
    );
    for (const person of await waitingForNames(runtime, SYSTEM_VIEWER))
      await settleWaiting(
        runtime,
        SYSTEM_VIEWER,
        person.courseId,
        person.folded,
        person.person === 'Zora Pell' ? 'new' : 'nobody',
      );
    await workAll();
    expect(await provisional(runtime, SYSTEM_VIEWER)).toMatchObject([
      { kind: 'learner', name: 'Zora Pell', courses: ['DRY'], hangs: 1 },
    ]);
    expect((await learners()).find(([name]) => name === 'Zora Pell')).toEqual(['Zora Pell', 12]);
  });

  it('of one name are never guessed', async () => {
    await bringIn(
      runtime,
      'roster',
      'learner_id,given_name,family_name,email,course\nL9,Ines,Marrow,other@learner.example,DRY\n',
    );
    const text = log('2026-11-12T14:05:00Z,"Marrow, Ines",Stone,viewed\n');
    expect(await bringIn(runtime, 'auto', text, { course: 'DRY', create: 'yes' })).toMatchObject({
      accepted: 0,
      waiting: 1,
    });
    const byMail = 'When,Who,Mail,Where,What\n2026-11-12T14:05:00Z,Ines Marrow,OTHER@learner.example,Stone,viewed\n';
    expect(await bringIn(runtime, 'auto', byMail, { course: 'DRY' })).toMatchObject({ accepted: 1, waiting: 0 });
    const [{ likely }] = await waitingForNames(runtime, SYSTEM_VIEWER);
    expect(likely.map(({ learnerId }) => learnerId).sort()).toEqual(['L1', 'L9']);
  });

  it('of one name with an address each wait apart, and are settled apart', async () => {
    const text =
      'When,Who,Mail,Where,What\n2026-11-12T14:05:00Z,Zora Pell,z1@learner.example,Stone,viewed\n2026-11-13T14:05:00Z,Zora Pell,z2@learner.example,Stone,viewed\n';
    expect(await bringIn(runtime, 'auto', text, { course: 'DRY' })).toMatchObject({ waiting: 2 });
    const people = await waitingForNames(runtime, SYSTEM_VIEWER);
    expect(people.map(({ person, rows }) => [person, rows])).toEqual([
      ['Zora Pell (z1@learner.example)', 1],
      ['Zora Pell (z2@learner.example)', 1],
    ]);
    for (const { courseId, folded } of people) await settleWaiting(runtime, SYSTEM_VIEWER, courseId, folded, 'new');
    await workAll();
    expect((await learners()).filter(([name]) => name === 'Zora Pell')).toEqual([
      ['Zora Pell', 12],
      ['Zora Pell', 11],
    ]);
  });

  it('who are staff are no learners', async () => {
    const grades = 'Name,Mail,Quiz (20)\nJory Kestle,instructor@staff.example,20\nInes Marrow,l1@learner.example,17\n';
    const run = await bringIn(runtime, 'auto', grades, { course: 'DRY', create: 'yes' });
    expect(run).toMatchObject({ accepted: 1, rejected: 1, waiting: 0 });
  });
});

describe('what was made', () => {
  beforeEach(async () => {
    await bringIn(runtime, 'auto', LOG, { course: 'Ropes', create: 'yes' });
  });

  it('is confirmed, joined and dropped, and brought back', async () => {
    const rows = await provisional(runtime, SYSTEM_VIEWER);
    expect(rows.map(({ kind, name }) => [kind, name])).toEqual([
      ['course', 'Ropes'],
      ['learner', 'A. Farrow'],
      ['learner', 'Ines Marrow'],
      ['item', 'Knots'],
    ]);
    const [, farrow, ines, knots] = rows;
    const settle = (row: { kind: string; id: number }, values: Record<string, string>) =>
      settleProvisional(runtime, SYSTEM_VIEWER, row.kind, row.id, values);
    await settle(knots, { do: 'confirm' });
    await expect(settle(farrow, { do: 'join', with: 'nobody' })).rejects.toThrow('with is no learner that is known');
    await expect(settle(farrow, {})).rejects.toThrow('do is missing');
    await settle(farrow, { do: 'drop' });
    await workAll();
    expect(await learners()).toEqual([['Ines Marrow', 12]]);
    const [gone] = await dropped(runtime, SYSTEM_VIEWER);
    await bringBackDropped(runtime, SYSTEM_VIEWER, gone.id);
    expect((await learners()).map(([name]) => name)).toEqual(['A. Farrow', 'Ines Marrow']);
    await settle(farrow, { do: 'join', with: ines.external_id });
    await workOnNext(runtime, makeOwner());
    expect((await learners()).map(([name]) => name)).toEqual(['Ines Marrow']);
    await expect(settle(farrow, { do: 'confirm' })).rejects.toThrow('found');
  });

  it('is dropped with a whole course, which comes back as it was unless another has its name by then', async () => {
    const names = async () => (await coursesWithGroups(runtime.db)).map(({ code }) => code);
    const shown = async () => (await askList(ACCESS_LOG, runtime, SYSTEM_VIEWER, { limit: '100' })).rows.length;
    const before = { learners: await learners(), names: await names(), shown: await shown() };
    const [ropes] = await provisional(runtime, SYSTEM_VIEWER);
    await settleProvisional(runtime, SYSTEM_VIEWER, 'course', ropes.id, { do: 'drop' });
    await workAll();
    // The access log keeps what it was told, under a name that says so.
    expect({ learners: await learners(), names: await names(), shown: await shown() }).toEqual({
      learners: [],
      names: [],
      shown: 2,
    });
    expect((await provisional(runtime, SYSTEM_VIEWER)).map(({ kind }) => kind)).not.toContain('course');
    const [gone] = await dropped(runtime, SYSTEM_VIEWER);
    expect(gone).toMatchObject({ kind: 'course', name: 'Ropes' });
    // The next file of that name makes a course of its own.
    await bringIn(runtime, 'auto', LOG, { course: 'Ropes', create: 'yes' });
    expect(await names()).toEqual(['Ropes']);
    await expect(bringBackDropped(runtime, SYSTEM_VIEWER, gone.id)).rejects.toThrow(
      'whose code another has by now: Ropes',
    );
    const [again] = await provisional(runtime, SYSTEM_VIEWER);
    await settleProvisional(runtime, SYSTEM_VIEWER, 'course', again.id, { do: 'drop' });
    await bringBackDropped(runtime, SYSTEM_VIEWER, gone.id);
    await recalculate(runtime);
    expect({ learners: await learners(), names: await names(), shown: await shown() }).toEqual({ ...before, shown: 4 });
    expect((await checkAll(runtime)).problems).toEqual([]);
  });
});

describe('the watched folder', () => {
  const put = (name: string, text: string) => {
    const folder = join(runtime.settings.dataDir, 'drop', 'campus');
    mkdirSync(folder, { recursive: true });
    writeFileSync(join(folder, name), text);
    return folder;
  };
  const rest = (folder: string, name: string) => utimesSync(join(folder, name), 1, 1);

  it('takes a shape that was settled, stops another and says which column it is', async () => {
    const [id] = await offer('log.csv', LOG);
    await chooseForFile(runtime, SYSTEM_VIEWER, id, { course: 'Ropes' });
    await takeOffered(runtime, SYSTEM_VIEWER);
    await workAll();
    const folder = put('week.csv', LOG.replaceAll('13/11', '14/11'));
    put('new.csv', LOG.replace('Where', 'Page title seen'));
    // One that is being written still is left alone until it has rested.
    expect(await takeDropped(runtime)).toBe(0);
    runtime.passTime(6000);
    expect(await takeDropped(runtime)).toBe(2);
    expect(readdirSync(folder).sort()).toEqual(['stopped', 'taken']);
    const why = readdirSync(join(folder, 'stopped')).find((name) => name.endsWith('.txt'))!;
    expect(readFileSync(join(folder, 'stopped', why), 'utf8')).toContain(
      'the column page_title_seen is new, the column where is missing',
    );
    const runs = await workAll();
    expect(
      runs
        .slice(0, 2)
        .map(({ file_name, state }) => [file_name, state])
        .sort(),
    ).toEqual([
      ['new.csv', 'failed'],
      ['week.csv', 'done'],
    ]);
    expect(runs.find(({ file_name }) => file_name === 'week.csv')).toMatchObject({
      source: 'campus',
      accepted: 1,
      duplicate: 1,
    });
  });

  it('takes at once what has rested long, and our own headings without settling', async () => {
    const folder = put('roster.csv', 'learner_id,given_name,family_name,course\nL1,Ines,Marrow,DRY\n');
    rest(folder, 'roster.csv');
    expect(await takeDropped(runtime)).toBe(1);
    expect(await workAll()).toMatchObject([{ kind: 'roster', accepted: 1 }]);
  });

  it('adds nothing twice where two watch it, and nothing is lost where it cannot be written', async () => {
    const roster = 'learner_id,given_name,family_name,course\nL1,Ines,Marrow,DRY\n';
    const folder = put('roster.csv', roster);
    rest(folder, 'roster.csv');
    await Promise.all([takeDropped(runtime), takeDropped(runtime)]);
    expect((await workAll()).reduce((sum, { accepted }) => sum + accepted, 0)).toBe(1);
    expect(readdirSync(folder)).toEqual(['taken']);
    expect(readdirSync(join(folder, 'taken'))).toHaveLength(1);
    // Where there is no place for what was taken, it stays, and is not taken again and again.
    const full = join(runtime.settings.dataDir, 'drop', 'full');
    mkdirSync(full);
    writeFileSync(join(full, 'taken'), 'in the way');
    writeFileSync(join(full, 'more.csv'), roster.replace('L1,Ines', 'L2,Petra'));
    rest(full, 'more.csv');
    expect(await takeDropped(runtime)).toBe(1);
    expect(await takeDropped(runtime)).toBe(0);
    runtime.passTime(60_000);
    expect(await takeDropped(runtime)).toBe(0);
    await workAll();
    expect(readdirSync(full).sort()).toEqual(['more.csv', 'taken']);
    expect((await learners()).map(([name]) => name)).toEqual(['Ines Marrow', 'Petra Marrow']);
  });
});
