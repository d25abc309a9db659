import { buffer, text } from 'node:stream/consumers';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { findLearner } from '@/data/people/learners';
import type { Viewer } from '@/data/scope';
import { LISTS } from '../lists';
import { LOOKS } from '../privacy/looks';
import { asFile } from '../request/exports';
import { NotFound } from '../request/input';
import { headingsOf, listFile } from '../request/list';
import { LEARNER_LIST_COLUMNS } from './learner-columns';
import { countLearners, learnerList } from './learner-list';
import { openDriftView } from '../request/view';
import { sendDraft, startDraft } from '../contact/write';
import { SYSTEM_VIEWER } from '../system-viewer';
import { NEEDED_BY_LIST, SMALL, bringIn, logOf, smallRuntime, viewerByEmail, type TestRuntime } from '../testing';

let runtime: TestRuntime;
let viewer: Viewer;

beforeAll(async () => {
  runtime = await smallRuntime();
  viewer = await viewerByEmail(runtime, 'lead@staff.example');
  await bringIn(
    runtime,
    'roster',
    'learner_id,given_name,family_name,course,enrolled_on\nL6,50%_Off,Zeal,DRY,2026-11-20\n',
  );
  await bringIn(
    runtime,
    'access-log',
    logOf([
      '2026-11-10T10:00:00Z,L1,DRY,D1,opened',
      '2026-11-23T10:00:00Z,L2,DRY,D1,opened',
      '2026-11-17T00:00:00Z,L3,NET,N1,opened',
    ]),
  );
  // Somebody's hand-in is known, so that those who have none can be told.
  await bringIn(
    runtime,
    'results',
    'learner_id,course,item_id,attempt,submitted_at\nL5,DRY,D2,1,2026-10-10T10:00:00Z\n',
  );
  const view = await openDriftView(runtime, viewer);
  const draft = await startDraft(runtime, view, [(await findLearner(runtime.db, viewer, 'L2'))!]);
  await sendDraft(runtime, view, draft, { subject: 'Hello', body: 'Hello' }, []);
});
afterAll(() => runtime.close());

const ids = async (query: Record<string, string>) =>
  (await learnerList(runtime, viewer, { sort: 'learner_id', ...query })).rows.map((row) => row.learner_id);

describe('the list of learners', () => {
  it.each([
    [{ quiet: '7' }, ['L1', 'L3', 'L4', 'L6']],
    [{ quiet: '8' }, ['L1', 'L4', 'L6']],
    [{ quiet: '0' }, ['L1', 'L2', 'L3', 'L4', 'L6']],
    [{ never: 'yes' }, ['L4', 'L6']],
    [{ enrolled_weeks: '2' }, ['L1', 'L2', 'L3', 'L4']],
    [{ not_contacted: '5' }, ['L1', 'L3', 'L4', 'L6']],
    [{ course: 'NET' }, ['L1', 'L3']],
    [{ group: 'DRY/A' }, ['L1', 'L4']],
    [{ course: 'DRY', group: 'B' }, ['L2']],
    [{ organisation: 'Penhallow' }, ['L2', 'L3']],
    [{ status: 'all', organisation: 'Norrick' }, ['L1', 'L5']],
    [{ band: 'adrift' }, ['L1', 'L2', 'L4']],
    // Finished, and in their first week.
    [{ band: 'no reading' }, ['L3', 'L6']],
    [{ q: 'okoro hal' }, ['L3']],
    [{ q: '960003' }, ['L3']],
    [{ q: 'L2@LEARNER' }, ['L2']],
    [{ q: '%_' }, ['L6']],
    // Without accents and capitals, either way round.
    [{ q: 'hálima OKORÓ' }, ['L3']],
    [{ q: "'; DROP TABLE learner" }, []],
  ])('%j gives %j', async (query, expected) => expect(await ids(query)).toEqual(expected));

  it('takes never as the quietest, and as the longest ago', async () => {
    expect((await ids({ sort: '-days_quiet' })).slice(0, 3)).toEqual(['L4', 'L6', 'L1']);
    expect((await ids({ sort: 'days_quiet' })).slice(0, 1)).toEqual(['L2']);
    expect((await ids({ sort: '-last_access' })).slice(0, 1)).toEqual(['L2']);
  });

  it('gives a learner’s figures of the course asked for', async () => {
    const figures = async (query: Record<string, string>) =>
      (await learnerList(runtime, viewer, { q: 'L1', ...query })).rows[0];
    expect(await figures({})).toMatchObject({ courses: ['DRY', 'NET'], ms: 60_000 });
    expect(await figures({ course: 'NET' })).toMatchObject({ courses: ['NET'], ms: 0, last_at: null });
  });

  it('counts the whole, and refuses a cursor that is none', async () => {
    expect(await countLearners(runtime, viewer)).toBe(5);
    await expect(learnerList(runtime, viewer, { cursor: 'bm9uc2Vuc2U' })).rejects.toThrow('cursor');
  });
});

describe('files', () => {
  it('have a heading even when they are empty', async () => {
    expect((await buffer(asFile('csv', ['a', 'b'], []))).toString()).toBe('\uFEFFa,b\r\n');
    expect(JSON.parse(await text(asFile('json', ['a'], [])))).toEqual({ data: [] });
  });

  it('hold the viewer’s own learners and no others', async () => {
    const coordinator = await viewerByEmail(runtime, 'norrick@partner.example');
    for (const list of LISTS) {
      const asker = { runtime, viewer: coordinator };
      // Who looked at whom is for leads alone.
      if (list.name === LOOKS.name) {
        await expect(listFile(list, asker, {}, 'csv')).rejects.toThrow(NotFound);
        continue;
      }
      const lines = (await text(await listFile(list, asker, NEEDED_BY_LIST[list.name] ?? {}, 'csv')))
        .trim()
        .split('\r\n');
      const place = lines[0].replace('\uFEFF', '').split(',').indexOf('learner_id');
      expect([list.name, place]).toEqual([list.name, headingsOf(list).indexOf('learner_id')]);
      if (place < 0) continue;
      const others = lines.slice(1).filter((line) => line.split(',')[place] !== 'L1');
      expect([list.name, others]).toEqual([list.name, []]);
    }
  });
});

const SORTS = Object.values(LEARNER_LIST_COLUMNS).map(({ sort }) => sort);

describe('a cursor', () => {
  it('is a place: page by page the list is whole in every order, and what changes meanwhile neither repeats nor skips', async () => {
    const own = await smallRuntime();
    const rows = Array.from(
      { length: 40 },
      (_, i) =>
        `X${i},Given${i % 7},Family${i % 3},,${i % 4 ? `+44 1632 9600${10 + i}` : ''},${i % 5 ? 'Norrick' : ''},DRY,A,2026-09-28,active,`,
    );
    await bringIn(own, 'roster', [SMALL.roster.split('\n')[0], ...rows, ''].join('\n'));
    await bringIn(
      own,
      'access-log',
      logOf(Array.from({ length: 20 }, (_, i) => `2026-11-${10 + (i % 9)}T10:00:00Z,X${i * 2},DRY,D1,opened`)),
    );
    for (const sort of SORTS.flatMap((one) => [one, `-${one}`])) {
      const whole = (await learnerList(own, SYSTEM_VIEWER, { sort, limit: '1000' })).rows.map((row) => row.learner_id);
      const paged: string[] = [];
      for (let cursor: string | null | undefined = undefined; cursor !== null;) {
        const page: Awaited<ReturnType<typeof learnerList>> = await learnerList(own, SYSTEM_VIEWER, {
          sort,
          limit: '7',
          cursor,
        });
        expect(page.total).toBe(whole.length);
        paged.push(...page.rows.map((row) => row.learner_id));
        cursor = page.next;
      }
      expect([sort, paged]).toEqual([sort, whole]);
    }
    // Somebody before the place leaves, and somebody comes: the next page goes on where it was.
    const first = await learnerList(own, SYSTEM_VIEWER, { sort: 'learner_id', limit: '10' });
    const expected = (await learnerList(own, SYSTEM_VIEWER, { sort: 'learner_id', limit: '20' })).rows.slice(10);
    await own.db('enrolment').where('learner_id', first.rows[2].id).update({ status: 'withdrawn', ended_day: 20_700 });
    await bringIn(own, 'roster', 'learner_id,given_name,course\nA0,New,DRY\n');
    const second = await learnerList(own, SYSTEM_VIEWER, { sort: 'learner_id', limit: '10', cursor: first.next! });
    expect(second.rows.map((row) => row.learner_id)).toEqual(expected.map((row) => row.learner_id));
    await expect(learnerList(own, SYSTEM_VIEWER, { cursor: 'nonsense' })).rejects.toThrow('cursor is not');
    await own.close();
  });
});
