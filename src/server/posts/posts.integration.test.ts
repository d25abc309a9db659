import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { postsPage, wordsToMatch } from '@/data/posts/posts';
import type { Viewer } from '@/data/scope';
import { InvalidInput, NotFound } from '../request/input';
import { goodNews } from '../good-news/good-news-list';
import { askList, bringIn, counts, smallRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { POSTERS, POSTS, posts, postsByPeople, whoAnswered } from './posts-list';

const HEAD = 'time,learner_id,course,item_id,text,post_id,in_reply_to';
const FILE = `${HEAD}
2026-10-05T10:00:00Z,L1,DRY,D3,"Which stone goes first? Größe, naïve café",p1,
2026-10-05T11:00:00Z,L2,DRY,D3,The widest one.,p2,p1
2026-10-05T12:00:00Z,S3,DRY,D3,"Right, Tobias: the widest",p3,p2
2026-10-06T09:00:00Z,L4,DRY,,Hello all,p4,
2026-10-07T09:00:00Z,L4,DRY,D3,I agree with you,p5,p1
2026-10-07T10:00:00Z,L1,NET,N2,A knot is a knot,p6,gone
2026-10-08T10:00:00Z,L1,DRY,D3,"<p>Thank <b>you</b>, all</p>",p7,p2
`;
const MORE = `course,course_title,starts_on,ends_on,unit,item_id,item,kind,required
DRY,Drystone Walling,2026-09-28,2026-12-21,Week 1,D3,Ask anything,discussion,no
NET,Net Work,2026-09-28,2026-12-21,Week 1,N2,Talk of knots,discussion,no
`;

let runtime: TestRuntime;
const viewers: Record<string, Viewer> = {};
beforeAll(async () => {
  runtime = await smallRuntime();
  await bringIn(runtime, 'outline', MORE);
  expect(counts(await bringIn(runtime, 'posts', FILE))).toMatchObject({ state: 'done', accepted: 7, rejected: 0 });
  for (const [name, email] of Object.entries({
    lead: 'lead@staff.example',
    mentor: 'mentor@staff.example',
    teacher: 'instructor@staff.example',
    partner: 'norrick@partner.example',
  }))
    viewers[name] = await viewerByEmail(runtime, email);
});
afterAll(() => runtime.close());

const ids = async (viewer: string, values = {}) =>
  (await posts(runtime, viewers[viewer], values)).rows.map(({ post_id }) => post_id).join(' ');

describe('posts', () => {
  it('come newest first, with whom they answer, those of staff where they are asked for', async () => {
    expect(await ids('lead')).toBe('p7 p6 p5 p4 p2 p1');
    expect(await ids('lead', { staff: 'yes', course: 'DRY' })).toBe('p7 p5 p4 p3 p2 p1');
    const { rows, total } = await askList(POSTS, runtime, viewers.lead, { course: 'DRY', item: 'D3' });
    expect(total).toBe(4);
    expect(rows[0]).toEqual({
      time: '2026-10-08T10:00:00Z',
      learner_id: 'L1',
      name: 'Ines Marrow',
      course: 'DRY',
      item_id: 'D3',
      item: 'Ask anything',
      text: 'Thank you, all',
      words: 3,
      post_id: 'p7',
      in_reply_to: 'p2',
      answered_learner_id: 'L2',
      answered_name: 'Tobias Quill',
    });
    const { rows: staff } = await askList(POSTS, runtime, viewers.lead, { staff: 'yes', q: 'right' });
    expect(staff).toMatchObject([{ learner_id: 'S3', name: 'Jory Kestle', answered_name: 'Tobias Quill' }]);
  });

  it('that answer one which never came are replies all the same', async () => {
    const { rows } = await askList(POSTS, runtime, viewers.lead, { course: 'NET' });
    expect(rows).toMatchObject([{ post_id: 'p6', in_reply_to: 'gone', answered_name: null }]);
  });

  it('are narrowed by course, group, learner, days and discussion', async () => {
    expect(await ids('lead', { group: 'DRY/A' })).toBe('p7 p5 p4 p1');
    expect(await ids('lead', { learner: 'L1', from: '2026-10-07', to: '2026-10-08' })).toBe('p6');
    expect(await ids('lead', { organisation: 'Penhallow' })).toBe('p2');
    await expect(ids('lead', { item: 'D9' })).rejects.toThrow(NotFound);
    await expect(ids('lead', { from: '2026-10-08', to: '2026-10-07' })).rejects.toThrow(InvalidInput);
  });

  it('go page by page, without one twice', async () => {
    const first = await posts(runtime, viewers.lead, { limit: '4' });
    expect(first.total).toBe(6);
    const second = await posts(runtime, viewers.lead, { limit: '4', cursor: first.next! });
    expect([...first.rows, ...second.rows].map(({ post_id }) => post_id).join(' ')).toBe('p7 p6 p5 p4 p2 p1');
    expect(second.next).toBeNull();
  });

  it('are found by whole words in any case, with or without accents; words in quotes, and beginnings', async () => {
    for (const q of ['GROSSE', 'größe', 'Grosse cafe', 'naive', '"stone goes"'])
      expect([q, await ids('lead', { q })]).toEqual([q, /gros/i.test(q) ? '' : 'p1']);
    expect(await ids('lead', { q: 'grö*' })).toBe('p1');
    expect(await ids('lead', { q: 'wid' })).toBe('');
    expect(await ids('lead', { q: 'wid*' })).toBe('p2');
    expect(await ids('lead', { q: '"goes stone"' })).toBe('');
    expect(await ids('lead', { q: 'you', course: 'DRY', group: 'DRY/A' })).toBe('p7 p5');
  });

  it('take whatever somebody types as words and never as a question to the index', async () => {
    for (const q of ['"', '*', 'NEAR(', 'a OR b', 'text: x', '-stone', '(((', "'", '\u0000', '^', '<'.repeat(200)])
      await expect(ids('lead', { q })).resolves.toBeTypeOf('string');
    expect(wordsToMatch('knot "dry wall" moor*')).toBe('"knot" "dry wall" "moor"*');
    await expect(ids('lead', { q: 'x'.repeat(201) })).rejects.toThrow(InvalidInput);
  });

  it('are seen in scope alone, and whom they answer is named only where that one is seen', async () => {
    expect(await ids('mentor')).toBe('p7 p5 p4 p1');
    const { rows } = await askList(POSTS, runtime, viewers.mentor, { learner: 'L1' });
    expect(rows[0]).toMatchObject({ post_id: 'p7', answered_learner_id: null, answered_name: null });
    await expect(ids('mentor', { learner: 'L2' })).rejects.toThrow(NotFound);
    expect(await ids('mentor', { q: 'widest', staff: 'yes' })).toBe('');
    expect(await ids('teacher', { q: 'widest', staff: 'yes' })).toBe('p3 p2');
  });

  it('are counted and not read by a partner, and by nobody while names are hidden', async () => {
    const { rows } = await askList(POSTS, runtime, viewers.partner);
    expect(rows.map(({ post_id, text }) => [post_id, text])).toEqual([
      ['p7', ''],
      ['p6', ''],
      ['p1', ''],
    ]);
    expect(await ids('partner', { q: 'knot' })).toBe('');
    const hidden = { ...viewers.lead, standInKey: 'a key' };
    const shown = await askList(POSTS, runtime, hidden, {});
    expect(JSON.stringify(shown.rows)).not.toMatch(/Ines|Tobias|"L1"|A knot/);
    expect((await posts(runtime, hidden, { q: 'knot' })).total).toBe(0);
  });
});

describe('who wrote how much', () => {
  it('counts discussions, posts, replies and words, with 0 for who never did', async () => {
    const { rows } = await askList(POSTERS, runtime, viewers.lead);
    expect(rows.map((row) => [row.learner_id, row.forums, row.posts, row.replies, row.words, row.first])).toEqual([
      ['L1', 2, 3, 2, 15, '2026-10-05T10:00:00Z'],
      ['L4', 1, 2, 1, 6, '2026-10-06T09:00:00Z'],
      ['L2', 1, 1, 1, 3, '2026-10-05T11:00:00Z'],
      ['L3', 0, 0, 0, 0, null],
    ]);
  });

  it('is of a course, of days, of who never wrote, and of ended enrolments where they are asked for', async () => {
    const people = async (values: object) =>
      (await postsByPeople(runtime, viewers.lead, { ...values })).rows.map((row) => `${row.learner_id} ${row.posts}`);
    expect(await people({ course: 'NET' })).toEqual(['L1 1', 'L3 0']);
    expect(await people({ course: 'DRY', from: '2026-10-07' })).toEqual(['L1 1', 'L4 1', 'L2 0']);
    expect(await people({ wrote: 'no' })).toEqual(['L3 0']);
    expect(await people({ course: 'DRY', status: 'all', sort: 'posts' })).toEqual(['L5 0', 'L2 1', 'L1 2', 'L4 2']);
    expect((await postsByPeople(runtime, viewers.mentor, {})).rows.map(({ learner_id }) => learner_id)).toEqual([
      'L1',
      'L4',
    ]);
  });

  it('says who answered whom, of people whom one sees', async () => {
    const pairs = async (viewer: string) =>
      (
        await whoAnswered(runtime, { viewer: viewers[viewer], segment: {}, asOf: null, now: runtime.clock.now() }, {})
      ).map(({ from_id, to_id, answers }) => `${from_id} → ${to_id} ${answers}`);
    expect(await pairs('lead')).toEqual(['L1 → L2 1', 'L2 → L1 1', 'L4 → L1 1']);
    expect(await pairs('mentor')).toEqual(['L4 → L1 1']);
  });
});

describe('taking posts', () => {
  it('counts each once, however often and by whatever way a file brings it', async () => {
    expect(counts(await bringIn(runtime, 'posts', FILE, { source: 'another' }))).toMatchObject({
      accepted: 0,
      duplicate: 7,
    });
    // Without ids of their own, by time, author and discussion.
    const plain = `time,learner_id,course,item_id,text\n2026-10-05T10:00:00Z,L1,DRY,D3,Which stone goes first?\n2026-10-09T10:00:00Z,L1,DRY,D3,Once\n2026-10-09T10:00:00Z,L1,DRY,D3,Once more\n`;
    expect(counts(await bringIn(runtime, 'posts', plain))).toMatchObject({ accepted: 1, duplicate: 2 });
    expect(counts(await bringIn(runtime, 'posts', plain))).toMatchObject({ accepted: 0, duplicate: 3 });
    // The same with an id later: it takes the id, and is none more.
    const later = `${HEAD}\n2026-10-09T10:00:00Z,L1,DRY,D3,Once again,p9,\n`;
    expect(counts(await bringIn(runtime, 'posts', later))).toMatchObject({ accepted: 1 });
    expect(await ids('lead', { q: 'once' })).toBe('p9');
    expect(await ids('lead', { q: 'again' })).toBe('p9');
    // What was changed is found by its new words alone.
    await bringIn(runtime, 'posts', `${HEAD}\n2026-10-09T10:00:00Z,L1,DRY,D3,Changed,p9,p4\n`);
    expect([await ids('lead', { q: 'again' }), await ids('lead', { q: 'changed' })]).toEqual(['', 'p9']);
    await runtime.db('post').where('external_id', 'p9').delete();
    expect(await ids('lead', { q: 'changed' })).toBe('');
  });

  it('says what is wrong with a row', async () => {
    const rows = [
      '2026-10-05T10:00:00Z,L9,DRY,D3,x,a1,',
      '2026-10-05T10:00:00Z,L3,DRY,D3,x,a2,',
      '2026-10-05T10:00:00Z,L1,XXX,D3,x,a3,',
      '2026-10-05T10:00:00Z,L1,DRY,N2,x,a4,',
      '2026-10-05T10:00:00Z,L1,DRY,D3,,a5,',
      '2027-10-05T10:00:00Z,L1,DRY,D3,x,a6,',
      '2026-10-05T10:00:00Z,L2,DRY,D3,x,p1,',
    ];
    const run = await bringIn(runtime, 'posts', [HEAD, ...rows, ''].join('\n'));
    expect(counts(run)).toMatchObject({ accepted: 0, rejected: 7 });
    const lines = readFileSync(join(runtime.settings.dataDir, 'rejects', `${run.id}.csv`), 'utf8')
      .trimEnd()
      .split('\r\n');
    const reasons = lines.slice(1).map((line) => line.split(',')[1]);
    expect(reasons).toEqual(['learner_id', 'learner_id', 'course', 'item_id', 'text', 'time', 'post_id']);
  });

  it('makes a first post good news on its day', async () => {
    const { rows } = await goodNews(runtime, viewers.lead, { what: 'first_post', from: '2026-10-01' });
    expect(rows.map(({ learner_id, course, says }) => `${learner_id} ${course} ${says}`)).toContain(
      'L4 DRY Wrote in the course’s discussions, for the first time in the course.',
    );
  });

  it('reads 10,000 of one person, page by page', async () => {
    const many = Array.from({ length: 10_000 }, (_, index) => {
      const at = new Date(Date.UTC(2026, 9, 10) + index * 1000).toISOString();
      return `${at},L2,DRY,D3,word ${index},m${index},`;
    });
    expect(counts(await bringIn(runtime, 'posts', [HEAD, ...many, ''].join('\n')))).toMatchObject({ accepted: 10_000 });
    const view = { viewer: viewers.lead, segment: {} };
    const { rows, total } = await postsPage(runtime.db, view, { staff: false, match: '"word"' }, { limit: 50 });
    expect([rows.length, rows[0].post_id, total]).toEqual([50, 'm9999', 10_000]);
  });
});
